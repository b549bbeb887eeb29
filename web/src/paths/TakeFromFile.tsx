import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox } from 'antd'
import type { PairDetail } from '@verimend/contract'
import {
  compareWithRecipe,
  keysOf,
  settingOf,
  straysIn,
  valuesOfFile,
  type Changes,
  type SettingKey,
} from '@verimend/core/recipe'
import type { PathReading } from '@verimend/core/toolpath'
import { bareText } from '@verimend/core/words'
import { useMemo, useState } from 'react'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { StrayTag } from './ReadingView'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Takes what a path file was made with as the pair's recipe: each recognised setting is shown before, and can be left out. */
export function TakeFromFile({
  pair,
  reading,
  name,
}: {
  pair: PairDetail
  reading: PathReading
  name: string
}) {
  const client = useQueryClient()
  const undo = useUndo()
  const [open, setOpen] = useState(false)
  const { values } = pair.version
  // what was hardly meant is left out unless it is asked for
  const strays = useMemo(
    () =>
      new Map(straysIn(compareWithRecipe(reading, values), pair.filament.filament).map((s) => [s.key, s])),
    [reading, values, pair.filament.filament],
  )
  const [left, setLeft] = useState<ReadonlySet<SettingKey>>(() => new Set(strays.keys()))
  const found = useMemo(() => valuesOfFile(reading, pair.machine.machine), [reading, pair.machine.machine])
  // what rounding in the file explains is no difference
  const others = useMemo(() => {
    const apart = new Set(compareWithRecipe(reading, values).map((d) => d.key))
    return keysOf(found).filter((k) => found[k] !== values[k].value && apart.has(k))
  }, [found, reading, values])
  const taken = others.filter((k) => !left.has(k))
  const save = useMutation({
    mutationFn: () =>
      api.pairs.change(pair.id, {
        base: pair.current,
        set: Object.fromEntries(taken.map((k) => [k, found[k]])) as Changes,
        file: name.slice(0, 200),
        reason: '',
      }),
    onSuccess: (v) => {
      setOpen(false)
      void changed.recipe(client, pair.id)
      undo(`${taken.length} values of ${name} are the recipe now, as version ${v.number}.`, () => {
        void api.pairs.restore(pair.id, v.number, pair.current).then(() => changed.recipe(client, pair.id))
      })
    },
  })
  if (!others.length)
    return <p className={ui.faint}>The recipe has everything that can be read from this file already.</p>
  if (!open)
    return (
      <div className={ui.row}>
        <Button onClick={() => setOpen(true)}>Take the file’s values as the recipe</Button>
        <span className={clsx(ui.faint, ui.small)}>
          {others.length} of {keysOf(found).length} settings that the file shows would change.
        </span>
      </div>
    )
  return (
    <section className={clsx(ui.notice, ui.stack)} aria-label="Values of the file">
      <p>
        What {name} was made with. Leave out what you do not want; everything else of the recipe is worked out
        anew round it.
      </p>
      <div className={ui.tablewrap}>
        <table className={ui.plain} style={{ width: 'auto' }}>
          <thead>
            <tr>
              <th>Take</th>
              <th>Setting</th>
              <th className={ui.num}>Recipe</th>
              <th className={ui.num}>File</th>
              <th>Unit</th>
            </tr>
          </thead>
          <tbody>
            {others.map((k) => {
              const s = settingOf(k)
              return (
                <tr key={k} data-take={k}>
                  <td>
                    <Checkbox
                      checked={!left.has(k)}
                      aria-label={`Take ${s.label}`}
                      onChange={(e) =>
                        setLeft((old) => {
                          const next = new Set(old)
                          if (e.target.checked) next.delete(k)
                          else next.add(k)
                          return next
                        })
                      }
                    />
                  </td>
                  <td>
                    {s.label} {strays.has(k) && <StrayTag stray={strays.get(k)!} />}
                  </td>
                  <td className={clsx(ui.num, ui.figure, ui.faint)}>{bareText(k, values[k].value)}</td>
                  <td className={clsx(ui.num, ui.figure)}>{bareText(k, found[k]!)}</td>
                  <td className={ui.faint}>{s.kind === 'number' ? s.unit : ''}</td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {!!save.error && <Problem error={save.error} />}
      <div className={ui.row}>
        <Button
          type="primary"
          loading={save.isPending}
          disabled={!taken.length}
          onClick={() => save.mutate()}
        >
          Write version {pair.current + 1} with{' '}
          {taken.length === 1 ? 'this value' : `these ${taken.length} values`}
        </Button>
        <Button onClick={() => setOpen(false)}>Leave the recipe as it is</Button>
      </div>
    </section>
  )
}
