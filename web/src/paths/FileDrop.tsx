import { Button, Progress } from 'antd'
import type { ReadingContext } from '@verimend/core/toolpath'
import { DropArea, FailedFile, FileField, useFileField } from '../components/files'
import type { Opened } from '../workers/readInWorker'
import { useReadGcode, type ReadingSlot } from '../workers/useReadGcode'
import ui from '../components/ui.module.css'

/** Takes a G-code file by drop or choice and reads it in a worker. */
export function FileDrop({
  context,
  onRead,
  hint,
  keepOpen = false,
  lasting,
}: {
  context: ReadingContext | null
  onRead: (file: Opened) => void
  hint: string
  /** The worker keeps the moves, so that layers can be looked at. */
  keepOpen?: boolean
  /** Reading goes on when the screen is left, in this slot. */
  lasting?: ReadingSlot
}) {
  const { state, read, stop, clear } = useReadGcode(onRead, { keepOpen, lasting })
  const { input, choose } = useFileField()
  const take = ([file]: File[]) => {
    if (context) read(file, context)
  }
  return (
    <DropArea onFiles={take}>
      <FileField
        input={input}
        label="G-code file"
        accept=".gcode,.gco,.g,.nc,.ngc,.txt,text/plain"
        onFiles={take}
      />
      {state.kind === 'reading' ? (
        <div className={ui.row} style={{ width: '100%' }}>
          <span className={ui.wrap}>Reading {state.name}</span>
          <Progress
            aria-label="Reading the file"
            percent={Math.round(state.share * 100)}
            style={{ flex: 1, minWidth: 120 }}
            size="small"
          />
          <Button size="small" onClick={stop}>
            Cancel
          </Button>
        </div>
      ) : (
        <>
          <span>{hint}</span>
          <Button size="small" disabled={!context} onClick={choose}>
            Choose a file
          </Button>
        </>
      )}
      {state.kind === 'failed' && <FailedFile name={state.name} message={state.message} onDismiss={clear} />}
    </DropArea>
  )
}
