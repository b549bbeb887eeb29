import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { PartRecord } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { ago } from '../components/format'
import { Problem } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { usePairOf } from '../pairs/usePairOf'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** The cases a part has, and the plans that were taken away. */
export function PartUsed({ part }: { part: PartRecord }) {
  const pairOf = usePairOf()
  const named = (id: string) => pairOf(id)?.label ?? 'a pair that is gone'
  const { pairId } = useCurrentPair()
  const client = useQueryClient()
  const navigate = useNavigate()
  const size = part.versions.at(-1)!.size
  const begin = useMutation({
    mutationFn: () =>
      api.cases.create(
        pairId!,
        part.name,
        null,
        Math.min(2000, Math.max(1, Math.round(Math.max(...size)))),
        part.id,
      ),
    onSuccess: (c) => {
      client.setQueryData(keys.cases.one(c.id), c)
      void changed.cases(client)
      void client.invalidateQueries({ queryKey: keys.parts.one(part.id) })
      void navigate(`/cases/${c.id}`)
    },
  })
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Where it was used">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Where it was used</h2>
        <Button size="small" loading={begin.isPending} onClick={() => begin.mutate()}>
          It came out wrong: begin a case
        </Button>
      </div>
      {!!begin.error && <Problem error={begin.error} />}
      {!part.cases.length && !part.plans.length && (
        <p className={ui.faint}>Not yet: neither a case nor a plan that was taken to print.</p>
      )}
      <table className={ui.plain}>
        <tbody>
          {part.cases.map((c) => (
            <tr key={c.id}>
              <td>
                <Link to={`/cases/${c.id}`}>{c.part}</Link>
              </td>
              <td className={ui.faint}>{named(c.pairId)}</td>
              <td>
                <span className={clsx(ui.tag, c.status === 'closed' ? ui.good : ui.info)}>{c.status}</span>
              </td>
              <td />
            </tr>
          ))}
          {[...part.plans].reverse().map((p) => (
            <tr key={p.id}>
              <td>
                Taken to print, version {p.version} with recipe version {p.recipe}
              </td>
              <td className={ui.faint}>{named(p.pairId)}</td>
              <td className={ui.figure}>
                {figure(p.minutes, 0)} min, {figure(p.grams, 1)} g
              </td>
              <td className={ui.faint}>{ago(p.createdAt)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
