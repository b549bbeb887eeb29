import { Button } from 'antd'
import { clsx } from 'clsx'
import { useRef, useState, type ReactNode, type RefObject } from 'react'
import ui from './ui.module.css'
import styles from './files.module.css'

/** A hidden file field; `choose` opens the system's dialog. The same file can be chosen twice in a row. */
export function useFileField() {
  const input = useRef<HTMLInputElement>(null)
  return { input, choose: () => input.current?.click() }
}

export function FileField({
  input,
  label,
  accept,
  multiple = false,
  camera = false,
  onFiles,
}: {
  input: RefObject<HTMLInputElement | null>
  label: string
  accept: string
  multiple?: boolean
  /** A phone opens its camera. */
  camera?: boolean
  onFiles: (files: File[]) => void
}) {
  return (
    <input
      ref={input}
      type="file"
      className={ui.visuallyHidden}
      aria-label={label}
      tabIndex={-1}
      accept={accept}
      multiple={multiple}
      {...(camera && { capture: 'environment' as const })}
      onChange={(e) => {
        const files = [...(e.target.files ?? [])]
        e.target.value = ''
        if (files.length) onFiles(files)
      }}
    />
  )
}

/** A place files can be dropped on. */
export function DropArea({ onFiles, children }: { onFiles: (files: File[]) => void; children: ReactNode }) {
  const [over, setOver] = useState(false)
  return (
    <div
      className={styles.drop}
      data-over={over || undefined}
      data-testid="drop"
      onDragOver={(e) => {
        e.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault()
        setOver(false)
        const files = [...e.dataTransfer.files]
        if (files.length) onFiles(files)
      }}
    >
      {children}
    </div>
  )
}

/** A file that could not be taken, and why. */
export function FailedFile({
  name,
  message,
  onDismiss,
}: {
  name: string
  message: string
  onDismiss: () => void
}) {
  return (
    <div className={clsx(ui.notice, ui.fault, ui.row, ui.between)} role="alert" style={{ width: '100%' }}>
      <span className={ui.wrap}>
        {name}: {message}
      </span>
      <Button size="small" type="text" onClick={onDismiss}>
        Dismiss
      </Button>
    </div>
  )
}
