import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Modal, Select } from 'antd'
import type { Grade } from '@verimend/core/recipe'
import { bareText, say, settingLabel } from '@verimend/core/words'
import { MAX_RECIPE_FILE, type ImportedRecipe, type RecipePreview } from '@verimend/contract'
import { useState, type ReactNode } from 'react'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useFilaments, useMachines } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/**
 * The way in: a file is read, what would change is shown, and nothing happens before it is agreed to.
 * The screen keeps it, not the recipe shown: a file chosen while another recipe is on its way is not lost.
 */
export function useRecipeFile(): {
  /** Stands wherever the screen wants it. */
  button: ReactNode
  /** To be rendered once, where it stays. */
  dialog: ReactNode
} {
  const { input, choose } = useFileField()
  const [text, setText] = useState('')
  const [to, setTo] = useState<Destination>({})
  const read = useMutation({
    mutationFn: async (file: File) => {
      if (file.size > MAX_RECIPE_FILE) throw new Error('This file is larger than a recipe can be (1 MB).')
      const content = await file.text()
      setText(content)
      setTo({})
      return api.recipes.read(content)
    },
  })
  // what it would do to the machine and roll that were chosen for it
  const elsewhere = useQuery({
    queryKey: ['recipe-file', text, to],
    queryFn: () => api.recipes.read(text, to),
    enabled: !!(to.machineId ?? to.filamentId),
    placeholderData: (before) => before,
    gcTime: 0,
  })
  const chosen = (to.machineId ?? to.filamentId) ? elsewhere : null
  const button = (
    <Button loading={read.isPending} onClick={choose}>
      Take one in
    </Button>
  )
  const dialog = (
    <>
      <FileField
        input={input}
        label="Recipe file"
        accept=".json,application/json"
        onFiles={([file]) => read.mutate(file)}
      />
      {(read.data || read.error) && (
        <Preview
          text={text}
          preview={chosen?.data ?? read.data}
          error={read.error ?? chosen?.error}
          busy={!!chosen?.isFetching}
          onTo={(change) => setTo({ ...to, ...change })}
          onClose={() => {
            read.reset()
            setTo({})
          }}
        />
      )}
    </>
  )
  return { button, dialog }
}

/** Machine and roll a file goes to when it is not to those it was written for. */
interface Destination {
  machineId?: string
  filamentId?: string
}

/** Stands for the machine or roll of the file. */
const NEW = 'new'
const tick = (d: { key: string; grade: Grade }) => `${d.grade}/${d.key}`

function Preview({
  text,
  preview,
  error,
  busy,
  onTo,
  onClose,
}: {
  text: string
  preview: RecipePreview | undefined
  error: unknown
  /** Another machine or roll is being looked at. */
  busy: boolean
  onTo: (to: Destination) => void
  onClose: () => void
}) {
  const machines = useMachines().data ?? []
  const filaments = useFilaments().data ?? []
  const client = useQueryClient()
  const undo = useUndo()
  const { choose } = useCurrentPair()
  const [left, setLeft] = useState<Set<string>>(new Set())
  const takeBack = async (done: ImportedRecipe) => {
    if (done.before !== null) await api.pairs.restore(done.pairId, done.version, done.before)
    if (done.shelved) await api.filaments.remove(done.filamentId)
    if (done.machineMade) await api.machines.remove(done.machineId)
    await changed.everything(client)
  }
  const take = useMutation({
    mutationFn: (p: RecipePreview) =>
      api.recipes.take({
        text,
        machineId: p.machine.id,
        filamentId: p.filament.id,
        base: p.pair?.current ?? null,
        ...(left.size && {
          take: p.differences.filter((d) => !left.has(tick(d))).map(({ key, grade }) => ({ key, grade })),
        }),
      }),
    onSuccess: async (done) => {
      await changed.everything(client)
      choose(done.pairId)
      onClose()
      undo(
        done.before === null && !done.shelved
          ? 'The recipe was the same already.'
          : `The recipe is taken in as version ${done.version}.`,
        () => void takeBack(done),
      )
    },
  })
  const p = preview
  return (
    <Modal
      open
      title={p ? `${p.filament.name} on ${p.machine.name}` : 'This file cannot be taken in'}
      onCancel={onClose}
      okText={p?.pair ? `Take in as version ${p.pair.current + 1}` : 'Take it in'}
      okButtonProps={{
        disabled: !p || busy || (p.differences.length > 0 && left.size === p.differences.length),
        loading: take.isPending,
      }}
      cancelText="Leave it"
      onOk={() => p && take.mutate(p)}
      width={640}
    >
      {!p && <Problem error={error} />}
      {p && (
        <div className={ui.stack}>
          <p className={ui.wrap}>
            Version {p.number}, written {p.written.slice(0, 10)}: {p.reason}
          </p>
          <div className={ui.row}>
            <Select
              aria-label="Roll it goes to"
              value={p.filament.id ?? NEW}
              disabled={busy}
              onChange={(id) => onTo({ filamentId: id === NEW ? undefined : id })}
              options={[
                ...(filaments.some((f) => f.id === p.filament.id)
                  ? []
                  : [{ value: p.filament.id ?? NEW, label: `${p.filament.name}, as in the file` }]),
                ...filaments.map((f) => ({ value: f.id, label: f.filament.name })),
              ]}
              style={{ minWidth: 200, flex: 1 }}
            />
            <Select
              aria-label="Machine it goes to"
              value={p.machine.id ?? NEW}
              disabled={busy}
              onChange={(id) => onTo({ machineId: id === NEW ? undefined : id })}
              options={[
                ...(p.machine.id === null
                  ? [{ value: NEW, label: `${p.machine.name}, as in the file` }]
                  : []),
                ...machines.map((m) => ({ value: m.id, label: m.machine.name })),
              ]}
              style={{ minWidth: 200, flex: 1 }}
            />
          </div>
          {!p.filament.sameFamily && (
            <p className={clsx(ui.notice, ui.caution)}>
              The file is for another plastic: only what belongs to the machine is taken, the rest is derived
              for this one.
            </p>
          )}
          <p className={ui.faint}>
            {p.filament.id === null
              ? 'The roll is put on the shelf. '
              : p.filament.removed
                ? 'The roll comes back to the shelf. '
                : 'The roll is on the shelf. '}
            {p.machine.id === null
              ? 'The machine is added. '
              : p.machine.same
                ? ''
                : 'The machine was built differently: what was tested or set by hand is taken, the rest is derived anew. '}
            {p.pair && 'The recipe that stands is kept as a version; nothing is overwritten.'}
          </p>
          {p.differences.length === 0 && (
            <div className={clsx(ui.notice, ui.good)}>Nothing differs from what stands.</div>
          )}
          {p.differences.length > 0 && (
            <div className={ui.tablewrap} style={{ maxHeight: 320 }}>
              <table className={ui.plain}>
                <thead>
                  <tr>
                    <th>Setting</th>
                    <th className={ui.num}>{p.pair ? 'Stands' : 'Derived'}</th>
                    <th className={ui.num}>In the file</th>
                    <th>Why</th>
                  </tr>
                </thead>
                <tbody>
                  {p.differences.map((d) => (
                    <tr key={tick(d)}>
                      <td>
                        <Checkbox
                          checked={!left.has(tick(d))}
                          disabled={!p.pair}
                          onChange={(e) =>
                            setLeft((s) => {
                              const n = new Set(s)
                              if (e.target.checked) n.delete(tick(d))
                              else n.add(tick(d))
                              return n
                            })
                          }
                        >
                          {settingLabel(d.key)}
                          {d.grade !== 'standard' && <span className={ui.faint}>, {d.grade}</span>}
                        </Checkbox>
                      </td>
                      <td className={clsx(ui.num, ui.figure)}>
                        {d.from === undefined ? '–' : bareText(d.key, d.from)}
                      </td>
                      <td className={clsx(ui.num, ui.figure)}>{bareText(d.key, d.to)}</td>
                      <td className={clsx(ui.faint, ui.wrap)}>{say(d.reason)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
          {p.ignored.length > 0 && (
            <div className={clsx(ui.notice, ui.caution)}>
              Left aside, unknown here: {p.ignored.slice(0, 8).join(', ')}
              {p.ignored.length > 8 ? ' …' : ''}.
            </div>
          )}
          {p.missing.length > 0 && (
            <div className={ui.notice}>{p.missing.length} settings are not in the file and are derived.</div>
          )}
          {take.error && <Problem error={take.error} />}
        </div>
      )}
    </Modal>
  )
}
