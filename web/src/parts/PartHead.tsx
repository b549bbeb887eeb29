import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Input, Select } from 'antd'
import type { PartRecord } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { ago } from '../components/format'
import { useUndo } from '../components/useUndo'
import { usePartEdit } from './usePartEdit'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

/** Name, note, size and versions of a part. */
export function PartHead({
  part,
  edit: { edit, change },
  version,
  onVersion,
  replacing,
  onReplace,
}: {
  part: PartRecord
  edit: ReturnType<typeof usePartEdit>
  version: number
  onVersion: (number: number) => void
  replacing: boolean
  onReplace: () => void
}) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const undo = useUndo()
  const remove = useMutation({
    mutationFn: () => api.parts.remove(part.id),
    onSuccess: async () => {
      await changed.part(client)
      void navigate('/parts')
      undo(`${part.name} is removed.`, () => void api.parts.restore(part.id).then(() => changed.part(client)))
    },
  })
  const shown = part.versions.find((v) => v.number === version)!
  return (
    <div style={{ marginBottom: 12 }}>
      <div className={ui.pagehead} style={{ marginBottom: 4 }}>
        <h1 className={ui.visuallyHidden}>{part.name}</h1>
        <Input
          className={styles.name}
          variant="borderless"
          value={edit.name}
          maxLength={120}
          aria-label="The part’s name"
          status={edit.name.trim() ? undefined : 'error'}
          onChange={(e) => change({ name: e.target.value })}
        />
        <span className={clsx(ui.faint, ui.figure)}>
          {shown.size.map((v) => figure(v, 1)).join(' × ')} mm, {figure(shown.volume / 1000, 1)} cm³
        </span>
        {part.versions.length > 1 && (
          <Select
            size="small"
            value={version}
            onChange={onVersion}
            aria-label="Version of the part"
            options={[...part.versions]
              .reverse()
              .map((v) => ({ value: v.number, label: `version ${v.number}, ${ago(v.createdAt)}` }))}
            style={{ width: 200 }}
          />
        )}
        <Button size="small" onClick={onReplace} aria-expanded={replacing}>
          Next version
        </Button>
        <Button size="small" type="text" onClick={() => remove.mutate()}>
          Remove
        </Button>
      </div>
      <Input.TextArea
        aria-label="Note on the part"
        placeholder="Note: what it is for, what matters on it"
        value={edit.note}
        maxLength={4000}
        rows={1}
        variant="borderless"
        style={{ paddingLeft: 0 }}
        onChange={(e) => change({ note: e.target.value })}
      />
    </div>
  )
}
