import { InputNumber, Segmented, Slider } from 'antd'
import { figure, quantity } from '@verimend/core/quantity'
import type { LayerPlan, PathReading } from '@verimend/core/toolpath'
import { useEffect, useState } from 'react'
import type { LayerSource } from '../workers/readInWorker'
import { LayerCanvas } from './LayerCanvas'
import { LayerLegend } from './LayerLegend'
import type { Shade } from './layerInk'
import type { Mark } from './paintLayer'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './LayerView.module.css'

/** One layer from above, beads at their true width; loop starts and ends, wipes, and how the head crosses the air. */
export function LayerView({
  reading,
  source,
  layer,
  onLayer,
  mark = null,
}: {
  reading: PathReading
  source: LayerSource
  layer: number
  onLayer: (layer: number) => void
  /** Drawn over its own layer. */
  mark?: Mark | null
}) {
  const [plan, setPlan] = useState<LayerPlan | null>(null)
  const [shade, setShade] = useState<Shade>('feature')
  const count = reading.layerCount
  useEffect(() => {
    let gone = false
    void source(layer).then((p) => !gone && setPlan(p))
    return () => {
      gone = true
    }
  }, [source, layer])
  const first = reading.firstLayer?.layer === layer ? reading.firstLayer : null
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <div className={ui.row}>
        <label className={ui.row} style={{ gap: 6 }}>
          Layer
          <InputNumber
            size="small"
            min={1}
            max={count}
            value={layer + 1}
            onChange={(v) => typeof v === 'number' && onLayer(Math.round(v) - 1)}
            aria-label="Layer"
            style={{ width: 84 }}
          />
          <span className={clsx(ui.figure, ui.faint)}>
            of {count}, {figure(reading.layers.z[layer] ?? 0, 2)} mm
          </span>
        </label>
        <Segmented
          size="small"
          value={shade}
          onChange={(v) => setShade(v as Shade)}
          options={[
            { value: 'feature', label: 'By feature' },
            { value: 'speed', label: 'By speed' },
          ]}
        />
      </div>
      <div className={styles.layersplit}>
        <Slider
          vertical
          min={0}
          max={Math.max(1, count - 1)}
          value={layer}
          onChange={onLayer}
          tooltip={{ formatter: (v) => `${figure(reading.layers.z[v ?? 0] ?? 0, 2)} mm` }}
          ariaLabelForHandle="Layer by height"
          style={{ height: 420 }}
        />
        <LayerCanvas plan={plan} shade={shade} mark={mark} />
        <div className={clsx(ui.stack, ui.small)} style={{ gap: 8, minWidth: 180 }}>
          {plan && <LayerLegend plan={plan} shade={shade} />}
          {first && (
            <table className={ui.plain}>
              <tbody>
                <tr>
                  <td className={ui.faint}>Left open</td>
                  <td className={clsx(ui.num, ui.figure)}>{quantity(first.gaps, '%', 1)}</td>
                </tr>
                <tr>
                  <td className={ui.faint}>Laid twice</td>
                  <td className={clsx(ui.num, ui.figure)}>{quantity(first.overlaps, '%', 1)}</td>
                </tr>
                <tr>
                  <td className={ui.faint}>On the bed</td>
                  <td className={clsx(ui.num, ui.figure)}>{quantity(first.contact, 'mm²', 0)}</td>
                </tr>
                <tr>
                  <td className={ui.faint}>Islands</td>
                  <td className={clsx(ui.num, ui.figure)}>
                    {first.islands}
                    {first.islands > 1 && `, least ${quantity(first.smallestIsland, 'mm²', 0)}`}
                  </td>
                </tr>
                <tr>
                  <td className={ui.faint}>Bead</td>
                  <td className={clsx(ui.num, ui.figure)}>{quantity(first.width, 'mm', 2)}</td>
                </tr>
                <tr>
                  <td className={ui.faint}>Around it</td>
                  <td className={ui.num}>
                    {[
                      reading.base.skirt && 'skirt',
                      reading.base.brim && 'brim',
                      reading.base.raftLayers && `raft of ${reading.base.raftLayers}`,
                    ]
                      .filter(Boolean)
                      .join(', ') || 'nothing'}
                  </td>
                </tr>
              </tbody>
            </table>
          )}
        </div>
      </div>
    </div>
  )
}
