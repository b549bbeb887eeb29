import { useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { MAX_PHOTO_BYTES, type CaseDetail } from '@verimend/contract'
import { memo, useEffect, useRef, useState } from 'react'
import { api } from '../api/client'
import { mayArriveLater } from '../api/http'
import { newId } from '../api/ids'
import { keys } from '../api/keys'
import { useCaseChange } from '../api/queries'
import { DropArea, FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { BeforeAfter } from './BeforeAfter'
import { PhotoView } from './PhotoView'
import { shows } from './shows'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import photosStyles from './photos.module.css'

/** The photos of a case: taken in by choice, drop or paste, opened to mark and measure, laid over each other. */
export const PhotoStrip = memo(function PhotoStrip({
  caseId,
  photos,
  attempts,
}: {
  caseId: string
} & Pick<CaseDetail, 'photos' | 'attempts'>) {
  const client = useQueryClient()
  const undo = useUndo()
  const { input, choose } = useFileField()
  const [open, setOpen] = useState<string | null>(null)
  const [waiting, setWaiting] = useState(0)
  const [faults, setFaults] = useState<{ id: string; file: File; error: Error }[]>([])
  const [comparing, setComparing] = useState(false)
  const restore = useCaseChange(caseId, api.photos.restore)
  const remove = useCaseChange(caseId, api.photos.remove)
  /** Sends photos one after the other; one that is sent again goes under the id it had. */
  const send = async (photos: { id: string; file: File }[]) => {
    setFaults((old) => old.filter((f) => !photos.some(({ id }) => id === f.id)))
    setWaiting((n) => n + photos.length)
    for (const { id, file } of photos) {
      try {
        if (file.size > MAX_PHOTO_BYTES) throw new Error(`A photo has at most ${MAX_PHOTO_BYTES / 1e6} MB.`)
        client.setQueryData(keys.cases.one(caseId), await api.photos.add(caseId, id, file))
      } catch (error) {
        const said = error instanceof Error ? error.message : 'not taken in.'
        setFaults((old) => [
          ...old,
          { id, file, error: new Error(`${file.name}: ${said}`, { cause: error }) },
        ])
      }
      setWaiting((n) => n - 1)
    }
  }
  const add = (files: Iterable<File>) => {
    setFaults([])
    const images = [...files].filter((f) => f.type.startsWith('image/') || f.type === '')
    return send(images.map((file) => ({ id: newId(), file })))
  }
  const taken = useRef(add)
  useEffect(() => {
    taken.current = add
  })
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const files = [...(e.clipboardData?.files ?? [])].filter((f) => f.type.startsWith('image/'))
      if (!files.length) return
      e.preventDefault()
      void taken.current(files)
    }
    document.addEventListener('paste', paste)
    return () => document.removeEventListener('paste', paste)
  }, [])
  const shown = photos.find((p) => p.id === open)
  return (
    <div className={ui.stack} data-testid="photos">
      {photos.length > 0 && (
        <ul className={photosStyles.photolist}>
          {photos.map((p) => (
            <li key={p.id}>
              <button type="button" onClick={() => setOpen(p.id)} aria-label={`Open the photo ${shows(p)}`}>
                <img src={api.photos.small(p.id)} alt={p.note || `The part ${shows(p)}`} loading="lazy" />
              </button>
              <span className={clsx(ui.small, ui.faint)}>{p.note || shows(p)}</span>
            </li>
          ))}
        </ul>
      )}
      <DropArea onFiles={(files) => void add(files)}>
        <FileField
          input={input}
          label="Choose photos"
          accept="image/*"
          multiple
          onFiles={(files) => void add(files)}
        />
        <span role="status">
          {waiting > 0
            ? `Taking in ${waiting} ${waiting === 1 ? 'photo' : 'photos'} …`
            : 'Photos: drop or paste them here.'}
        </span>
        <Button size="small" onClick={choose}>
          Add photos
        </Button>
        {photos.length > 1 && (
          <Button size="small" onClick={() => setComparing(!comparing)} aria-expanded={comparing}>
            Before and after
          </Button>
        )}
        <span className={clsx(ui.faint, ui.small)}>
          Turned upright; place and time the camera wrote are taken out.
        </span>
      </DropArea>
      {faults.map(({ id, file, error }) => (
        <Problem
          key={id}
          error={error}
          again={mayArriveLater(error.cause) ? () => void send([{ id, file }]) : undefined}
        />
      ))}
      {comparing && photos.length > 1 && <BeforeAfter photos={photos} />}
      {shown && (
        <PhotoView
          key={shown.id}
          caseId={caseId}
          attempts={attempts}
          photo={shown}
          onClose={() => setOpen(null)}
          onRemove={() => {
            setOpen(null)
            remove.mutate(shown.id, {
              onSuccess: () => undo('The photo is taken out.', () => restore.mutate(shown.id)),
            })
          }}
        />
      )}
    </div>
  )
})
