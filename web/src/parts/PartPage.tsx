import { useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { PairDetail, PartRecord } from '@verimend/contract'
import { useState, type ReactNode } from 'react'
import { useParams } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { usePair, usePart } from '../api/queries'
import { Empty, Loaded, Problem, Waiting } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { MeshDrop } from './MeshDrop'
import { PartHead } from './PartHead'
import { PartUsed } from './PartUsed'
import { PlannedPart, type OfPart } from './PlannedPart'
import { usePartWork } from './usePartWork'
import { usePartEdit } from './usePartEdit'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** A part on the chosen pair: how it stands, what its paths will be, and what a change would do. */
export default function PartPage() {
  const { id = '' } = useParams()
  const part = usePart(id)
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  if (!pairId) return <Empty>Choose a pair first: a part is laid with its recipe, on its machine.</Empty>
  return (
    <Loaded query={part}>
      {(p) => <Loaded query={pair}>{(q) => <PartSheet key={p.id} part={p} pair={q} />}</Loaded>}
    </Loaded>
  )
}

function PartSheet({ part, pair }: { part: PartRecord; pair: PairDetail }) {
  const [number, setNumber] = useState<number | null>(null)
  const version = part.versions.find((v) => v.number === number) ?? part.versions.at(-1)!
  const edit = usePartEdit(part)
  const [replacing, setReplacing] = useState(false)
  const client = useQueryClient()
  return (
    <>
      <PartHead
        part={part}
        edit={edit}
        version={version.number}
        onVersion={setNumber}
        replacing={replacing}
        onReplace={() => setReplacing(!replacing)}
      />
      <div className={ui.stack}>
        {edit.conflict ? (
          <div className={clsx(ui.notice, ui.caution, ui.row, ui.between)} role="alert">
            <span>This part was changed in another window. Yours is kept here.</span>
            <span className={ui.row}>
              <Button size="small" onClick={() => edit.settle(true)}>
                Save mine over it
              </Button>
              <Button size="small" onClick={() => edit.settle(false)}>
                Take the other
              </Button>
            </span>
          </div>
        ) : (
          !!edit.error && <Problem error={edit.error} again={edit.again} />
        )}
        {replacing && (
          <MeshDrop
            hint={`Drop the next version of ${part.name} here.`}
            to={`/parts/${part.id}`}
            onMesh={async (mesh) => {
              client.setQueryData(keys.parts.one(part.id), await api.parts.addVersion(part.id, mesh))
              await changed.part(client)
              setNumber(null)
              setReplacing(false)
            }}
          />
        )}
        <OpenVersion
          key={`${version.sha256} ${version.unit}`}
          part={part}
          pair={pair}
          version={version}
          layout={edit.edit.layout}
          own={edit.edit.own}
          onLayout={(patch) => edit.change({ layout: { ...edit.edit.layout, ...patch } })}
          onOwn={(own) => edit.change({ own })}
        >
          <PartUsed part={part} />
        </OpenVersion>
      </div>
    </>
  )
}

/** A version of a part, while its worker has it open; and what comes after it. */
function OpenVersion({ children, ...props }: OfPart & { children: ReactNode }) {
  const open = usePartWork(props.version, props.part)
  if (!open.error && !open.opened) return <Waiting tall={420} />
  return (
    <>
      {open.opened && !open.error ? (
        <PlannedPart {...props} work={open.work} opened={open.opened} />
      ) : (
        <Problem error={open.error} />
      )}
      {children}
    </>
  )
}
