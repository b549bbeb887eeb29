import { Button } from 'antd'
import { useSyncExternalStore } from 'react'
import { renewal } from './renewal'

/** Says that these pages are older than what the server has by now. */
export function Renewed() {
  const renewed = useSyncExternalStore(renewal.subscribe, renewal.is)
  if (!renewed) return null
  return (
    <Button size="small" onClick={() => location.reload()} title="What you typed stays">
      Verimend was renewed: load again
    </Button>
  )
}
