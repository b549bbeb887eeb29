import { useMutation } from '@tanstack/react-query'
import { Button, InputNumber, Segmented } from 'antd'
import type { PrintReport } from '@verimend/contract'
import { quantity } from '@verimend/core/quantity'
import { useRef, useState, type PointerEvent } from 'react'
import { api } from '../api/client'
import { Problem } from '../components/states'
import type { PrintPicture } from './usePicture'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './prints.module.css'

type Box = PrintReport['box']
type What = 'outside' | 'inside' | 'wall' | 'grams'
/** mm at the foot that are left out: it flares. */
const FOOT = 1

/**
 * A caliper laid against a picture of the part: a block is drawn over what is to lie between the jaws, or its ends are typed;
 * each reading has the scatter of a hand.
 */
export function Caliper({
  id,
  view,
  picture,
  box,
}: {
  id: string
  view: 'side' | 'top' | 'first'
  picture: PrintPicture
  box: Box
}) {
  const [block, setBlock] = useState<Box>({ ...box, z0: Math.min(FOOT, box.z1 / 2) })
  const [what, setWhat] = useState<What>('outside')
  const [axis, setAxis] = useState<'x' | 'y' | 'z'>('x')
  const measure = useMutation({
    mutationFn: () => api.prints.measure(id, { region: block, what, axis, repeats: 3 }),
  })
  const [size, setSize] = useState<{ width: number; height: number } | null>(null)
  const from = useRef<{ u: number; v: number } | null>(null)
  const upright = view === 'side'
  /** Across and up, mm, at a place of the picture. */
  const at = (event: PointerEvent<HTMLElement>) => {
    const r = event.currentTarget.getBoundingClientRect()
    const natural = size ?? { width: r.width, height: r.height }
    const shown = r.width / natural.width
    return {
      u: picture.left + ((event.clientX - r.left) / shown) * picture.scale,
      v: picture.top - ((event.clientY - r.top) / shown) * picture.scale,
    }
  }
  const span = (a: { u: number; v: number }, b: { u: number; v: number }) => {
    const [u0, u1] = [Math.min(a.u, b.u), Math.max(a.u, b.u)]
    const [v0, v1] = [Math.min(a.v, b.v), Math.max(a.v, b.v)]
    const round = (v: number) => Number(v.toFixed(1))
    setBlock((old) =>
      upright
        ? { ...old, x0: round(u0), x1: round(u1), z0: round(Math.max(0, v0)), z1: round(v1) }
        : { ...old, x0: round(u0), x1: round(u1), y0: round(v0), y1: round(v1) },
    )
    measure.reset()
  }
  const mean = measure.data?.length ? measure.data.reduce((s, v) => s + v, 0) / measure.data.length : null
  const place = size && {
    left: `${((block.x0 - picture.left) / picture.scale / size.width) * 100}%`,
    width: `${((block.x1 - block.x0) / picture.scale / size.width) * 100}%`,
    top: `${((picture.top - (upright ? block.z1 : block.y1)) / picture.scale / size.height) * 100}%`,
    height: `${((upright ? block.z1 - block.z0 : block.y1 - block.y0) / picture.scale / size.height) * 100}%`,
  }
  const field = (key: keyof Box, label: string) => (
    <InputNumber
      size="small"
      aria-label={label}
      value={block[key]}
      step={1}
      style={{ width: 78 }}
      onChange={(v) => {
        if (v !== null) setBlock((old) => ({ ...old, [key]: v }))
        measure.reset()
      }}
    />
  )
  return (
    <>
      <div
        className={styles.picture}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          from.current = at(e)
        }}
        onPointerMove={(e) => from.current && span(from.current, at(e))}
        onPointerUp={(e) => {
          if (from.current) {
            const end = at(e)
            if (Math.hypot(end.u - from.current.u, end.v - from.current.v) > 0.5) span(from.current, end)
          }
          from.current = null
        }}
      >
        <img
          src={picture.href}
          alt={
            upright ? 'The part from the front' : view === 'top' ? 'The part from above' : 'Its first layer'
          }
          draggable={false}
          onLoad={(e) =>
            setSize({ width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight })
          }
        />
        {place && <span className={styles.block} style={place} />}
      </div>
      <div className={ui.row}>
        <Segmented<What>
          size="small"
          aria-label="What is measured"
          value={what}
          onChange={(v) => {
            setWhat(v)
            measure.reset()
          }}
          options={[
            { value: 'outside', label: 'Over it' },
            { value: 'inside', label: 'Within it' },
            { value: 'wall', label: 'Its walls' },
            { value: 'grams', label: 'On the scale' },
          ]}
        />
        {what !== 'grams' && (
          <Segmented<'x' | 'y' | 'z'>
            size="small"
            aria-label="Along which axis"
            value={axis}
            onChange={(v) => {
              setAxis(v)
              measure.reset()
            }}
            options={[
              { value: 'x', label: 'X' },
              { value: 'y', label: 'Y' },
              { value: 'z', label: 'Z' },
            ]}
          />
        )}
        <Button size="small" type="primary" loading={measure.isPending} onClick={() => measure.mutate()}>
          Measure
        </Button>
        <output aria-live="polite">
          {mean !== null ? (
            <>
              <strong className={ui.figure}>
                {what === 'grams' ? quantity(mean, 'g', 2) : quantity(mean, 'mm', 2)}
              </strong>{' '}
              <span className={clsx(ui.small, ui.faint)}>
                {measure.data!.map((v) => v.toFixed(2)).join(', ')}
              </span>
            </>
          ) : (
            measure.data && <span className={ui.faint}>Nothing lies between the jaws there.</span>
          )}
        </output>
      </div>
      {!!measure.error && <Problem error={measure.error} />}
      <details>
        <summary className={ui.small}>Between the jaws, mm</summary>
        <div className={clsx(ui.row, ui.small)}>
          X {field('x0', 'X from')} to {field('x1', 'X to')}, Y {field('y0', 'Y from')} to{' '}
          {field('y1', 'Y to')}, Z {field('z0', 'Z from')} to {field('z1', 'Z to')}
        </div>
      </details>
      <p className={clsx(ui.small, ui.faint)}>Draw a block over what is to lie between the jaws.</p>
    </>
  )
}
