import type { PairDetail } from '@verimend/contract'
import type { PathReading } from '@verimend/core'
import { useState } from 'react'
import type { LayerSource } from '../workers/useReadGcode'
import { PathBench } from '../paths/PathBench'

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
    <details className="sheet" style={{ marginTop: 14 }} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Read its paths</summary>
      {open && (
        <PathBench
          side={{ name, reading, layer }}
          pair={pair}
          marks={[]}
          onMarks={() => undefined}
          other={null}
          chooseOther={null}
          openLayers={null}
          piece
        />
      )}
    </details>
  )
}
