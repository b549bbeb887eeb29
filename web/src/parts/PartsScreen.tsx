import type { PartSummary } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useParts } from '../api/queries'
import { ago } from '../components/format'
import { RemoveButton } from '../components/RemoveButton'
import { Empty, Loaded } from '../components/states'
import { useUndo } from '../components/useUndo'
import { MeshDrop } from './MeshDrop'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import { newId } from '../api/ids'

/** Parts whose mesh is kept, and where a new one is put in. */
export default function PartsScreen() {
  const parts = useParts()
  const client = useQueryClient()
  const navigate = useNavigate()
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Parts</h1>
        <span className={ui.faint}>
          Put in the part itself, and see what a change will do before it is printed.
        </span>
      </div>
      <div className={ui.stack}>
        <MeshDrop
          hint="Drop an STL or 3MF file here, or paste one."
          to="/parts"
          onMesh={async (mesh, name, here) => {
            const part = await api.parts.create({ id: newId(), name, mesh })
            client.setQueryData(keys.parts.one(part.id), part)
            await changed.part(client)
            if (here()) void navigate(`/parts/${part.id}`)
          }}
        />
        <Loaded query={parts}>
          {(list) =>
            list.length === 0 ? (
              <Empty>No parts yet. The one that came out wrong is a good one to begin with.</Empty>
            ) : (
              <div className={clsx(ui.sheet, ui.tablewrap)}>
                <table className={clsx(ui.plain, ui.stacks)} data-testid="parts">
                  <thead>
                    <tr>
                      <th>Part</th>
                      <th className={ui.num}>Size, mm</th>
                      <th className={ui.num}>Versions</th>
                      <th className={ui.num}>Cases</th>
                      <th className={ui.num}>Taken to print</th>
                      <th>Changed</th>
                      <td />
                    </tr>
                  </thead>
                  <tbody>
                    {list.map((p) => (
                      <Row key={p.id} part={p} />
                    ))}
                  </tbody>
                </table>
              </div>
            )
          }
        </Loaded>
      </div>
    </>
  )
}

function Row({ part }: { part: PartSummary }) {
  const client = useQueryClient()
  const undo = useUndo()
  const remove = useMutation({
    mutationFn: () => api.parts.remove(part.id),
    onSuccess: async () => {
      await changed.part(client)
      undo(`${part.name} is removed.`, () => void api.parts.restore(part.id).then(() => changed.part(client)))
    },
  })
  return (
    <tr>
      <td>
        <Link to={`/parts/${part.id}`} className={ui.wrap}>
          {part.name}
        </Link>
      </td>
      <td className={clsx(ui.num, ui.figure)} data-label="mm">
        {part.size.map((v) => figure(v, 1)).join(' × ')}
      </td>
      <td className={clsx(ui.num, ui.figure)} data-label="versions">
        {part.versions}
      </td>
      <td className={clsx(ui.num, ui.figure)} data-label="cases">
        {part.cases || '–'}
      </td>
      <td className={clsx(ui.num, ui.figure)} data-label="taken to print">
        {part.plans || '–'}
      </td>
      <td className={ui.faint}>{ago(part.updatedAt)}</td>
      <td className={ui.num}>
        <RemoveButton what={part.name} onClick={() => remove.mutate()} />
      </td>
    </tr>
  )
}
