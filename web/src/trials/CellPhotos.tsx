import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { TrialPhoto } from '@verimend/contract'
import { api } from '../api/client'
import { mayArriveLater } from '../api/http'
import { newId } from '../api/ids'
import { keys } from '../api/keys'
import { useTrialPhotos } from '../api/queries'
import { FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import photosStyles from '../photos/photos.module.css'

/** Photos of one place of a piece, taken with the phone that reads it. */
export function CellPhotos({ trial, cell, name }: { trial: string; cell: string; name: string }) {
  const client = useQueryClient()
  const undo = useUndo()
  const { input, choose } = useFileField()
  const photos = useTrialPhotos(trial)
  const keep = (all: TrialPhoto[]) => client.setQueryData(keys.trials.photos(trial), all)
  const add = useMutation({
    // one that is sent again goes under the id it had
    mutationFn: ({ id, file }: { id: string; file: File }) => api.trials.addPhoto(trial, cell, id, file),
    onSuccess: keep,
  })
  const restore = useMutation({
    mutationFn: (id: string) => api.trials.restorePhoto(trial, id),
    onSuccess: keep,
  })
  const remove = useMutation({
    mutationFn: (id: string) => api.trials.removePhoto(trial, id),
    onSuccess: (all, id) => {
      keep(all)
      undo('The photo is taken out.', () => restore.mutate(id))
    },
  })
  const own = photos.data?.filter((p) => p.cell === cell) ?? []
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      {own.length > 0 && (
        <ul className={photosStyles.photolist}>
          {own.map((p, i) => (
            <li key={p.id}>
              <a href={api.photos.href(p.id)} target="_blank" rel="noreferrer">
                <img src={api.photos.small(p.id)} alt={`${name}, photo ${i + 1}`} />
              </a>
              <button
                type="button"
                className={clsx(ui.linkish, ui.small)}
                onClick={() => remove.mutate(p.id)}
              >
                Take it out
              </button>
            </li>
          ))}
        </ul>
      )}
      <FileField
        input={input}
        label={`Choose a photo of ${name}`}
        accept="image/*"
        camera
        onFiles={([file]) => add.mutate({ id: newId(), file })}
      />
      <Button loading={add.isPending} onClick={choose}>
        Add a photo
      </Button>
      {!!add.error && (
        <Problem
          error={add.error}
          again={mayArriveLater(add.error) ? () => add.mutate(add.variables!) : undefined}
        />
      )}
    </div>
  )
}
