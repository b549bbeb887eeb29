import { refused } from '../problem/problem'
import { NOT_BEGUN, type Device, type DeviceStatus, type Sent } from './device'

const carried = () =>
  refused(
    'carried-by-hand',
    'This file is carried to its machine by hand; the machine cannot be told anything from here.',
  )

/** A machine that is not joined: the file is handed to the person, who carries it there. */
export class DownloadDevice implements Device {
  send({ id }: Sent): Promise<DeviceStatus> {
    return Promise.resolve({ id, state: 'handed-over', reason: null, ...NOT_BEGUN })
  }
  pause(): Promise<DeviceStatus> {
    return Promise.reject(carried())
  }
  resume(): Promise<DeviceStatus> {
    return Promise.reject(carried())
  }
  stop(): Promise<DeviceStatus> {
    return Promise.reject(carried())
  }
  status(): Promise<null> {
    return Promise.resolve(null)
  }
  still(): Promise<null> {
    return Promise.resolve(null)
  }
  watch(): () => void {
    return () => undefined
  }
}
