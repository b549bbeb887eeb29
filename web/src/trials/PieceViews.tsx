import type { PairDetail } from '@verimend/contract'
import type { PathReading } from '@verimend/core/toolpath'
import { useState } from 'react'
import type { LayerSource } from '../workers/readInWorker'
import { PathBench } from '../paths/PathBench'
import ui from '../components/ui.module.css'

/** The piece in the path reader's own views, before it is printed. */
export function PieceViews({
  pair,
  name,
  reading,
  layer,
}: {
  pair: PairDetail
  name: string
  reading: PathReading
  layer: LayerSource
}) {
  const [open, setOpen] = useState(false)
  return (
    <details className={ui.sheet} style={{ marginTop: 14 }} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Read its paths</summary>
      {open && (
        <PathBench
          side={{ name, reading, layer }}
          pair={pair}
          ranges={[]}
          onRanges={() => undefined}
          other={null}
          chooseOther={null}
          openLayers={null}
          piece
        />
      )}
    </details>
  )
}
