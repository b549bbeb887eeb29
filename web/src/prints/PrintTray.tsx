import type { Print } from '@verimend/contract'
import { TrayButton } from '../components/TrayButton'
import { PrintProgress } from './PrintProgress'
import { share } from './printWords'

/** What is printing now, behind a button at the top. */
export default function PrintTray({ list }: { list: readonly Print[] }) {
  return (
    <TrayButton
      title="Printing"
      testId="tray"
      items={list.map((p) => ({
        key: p.id,
        name: p.name,
        to: `/prints/${p.id}`,
        progress: <PrintProgress print={p} />,
      }))}
    >
      {list.length === 1 ? `Printing, ${Math.floor(100 * share(list[0]))} %` : `Printing ${list.length}`}
    </TrayButton>
  )
}
