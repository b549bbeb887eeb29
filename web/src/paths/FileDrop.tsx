import { Button, Progress } from 'antd'
import { useRef, useState } from 'react'
import type { ReadingContext } from '@verimend/core'
import { useReadGcode, type Opened } from '../workers/useReadGcode'

/** Takes a G-code file by drop or choice and reads it in a worker. */
export function FileDrop({
  context,
  onRead,
  hint,
  keepOpen = false,
}: {
  context: ReadingContext | null
  onRead: (file: Opened) => void
  hint: string
  /** The worker keeps the moves, so that layers can be looked at. */
  keepOpen?: boolean
}) {
  const { state, read, stop, clear } = useReadGcode(onRead, keepOpen)
  const [over, setOver] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  const take = (file: File | undefined | null) => {
    if (file && context) read(file, context)
  }
  return (
    <div
      className={over ? 'drop over' : 'drop'}
      onDragOver={(e) => {
        e.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault()
        setOver(false)
        take(e.dataTransfer.files[0])
      }}
    >
      <input
        ref={input}
        type="file"
        className="visually-hidden"
        aria-label="G-code file"
        tabIndex={-1}
        accept=".gcode,.gco,.g,.nc,.ngc,.txt,text/plain"
        onChange={(e) => {
          take(e.target.files?.[0])
          e.target.value = ''
        }}
      />
      {state.kind === 'reading' ? (
        <div className="row" style={{ width: '100%' }}>
          <span className="wrap">Reading {state.name}</span>
          <Progress percent={Math.round(state.share * 100)} style={{ flex: 1, minWidth: 120 }} size="small" />
          <Button size="small" onClick={stop}>
            Cancel
          </Button>
        </div>
      ) : (
        <>
          <span>{hint}</span>
          <Button size="small" disabled={!context} onClick={() => input.current?.click()}>
            Choose a file
          </Button>
        </>
      )}
      {state.kind === 'failed' && (
        <div className="notice fault row between" role="alert" style={{ width: '100%' }}>
          <span className="wrap">
            {state.name}: {state.message}
          </span>
          <Button size="small" type="text" onClick={clear}>
            Dismiss
          </Button>
        </div>
      )}
    </div>
  )
}
