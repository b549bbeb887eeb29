import { Button, InputNumber, Segmented } from 'antd'
import type { Pixel } from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { useEffect, useRef, useState } from 'react'
import { DropArea, FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import { linear } from '../drawing/scales'
import { compute } from '../workers/compute'
import { greyOf, openPhoto } from './openPhoto'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

type By = 'corners' | 'length'
const STEPS: Record<By, string[]> = {
  corners: [
    'first corner',
    'second corner',
    'third corner',
    'fourth corner',
    'where the line begins',
    'where it ends',
  ],
  length: ['one end of the known length', 'its other end', 'where the line begins', 'where it ends'],
}
interface Answer {
  spacing: { value: number; u: number; p: number } | null
  profile: number[]
  step: number
}

/**
 * The spacing of bands on a photo: straightened by a known rectangle or scaled by a known length, read along a line
 * across them. The photo stays on this machine; only what comes out of it is kept.
 */
export function PhotoBands({ onFound }: { onFound: (spacing: { value: number; u: number }) => void }) {
  const { input, choose } = useFileField()
  const [picture, setPicture] = useState<ImageBitmap | null>(null)
  const [error, setError] = useState<unknown>(null)
  const [by, setBy] = useState<By>('corners')
  const [known, setKnown] = useState({ width: 20, height: 20 })
  const [points, setPoints] = useState<Pixel[]>([])
  const [answer, setAnswer] = useState<Answer | null>(null)
  const [busy, setBusy] = useState(false)
  const canvas = useRef<HTMLCanvasElement>(null)
  const steps = STEPS[by]
  const all = points.length === steps.length
  useEffect(() => {
    const c = canvas.current
    if (!c || !picture) return
    c.width = picture.width
    c.height = picture.height
    const ink = c.getContext('2d')
    if (!ink) return
    ink.drawImage(picture, 0, 0)
    const size = Math.max(picture.width, picture.height) / 110
    const marks = by === 'corners' ? points.slice(0, 4) : points.slice(0, 2)
    const line = by === 'corners' ? points.slice(4) : points.slice(2)
    ink.lineWidth = size / 2.5
    ink.strokeStyle = '#b9811d'
    ink.beginPath()
    marks.forEach((p, i) => (i ? ink.lineTo(p.x, p.y) : ink.moveTo(p.x, p.y)))
    if (marks.length === 4) ink.closePath()
    ink.stroke()
    ink.strokeStyle = '#b0432c'
    ink.beginPath()
    line.forEach((p, i) => (i ? ink.lineTo(p.x, p.y) : ink.moveTo(p.x, p.y)))
    ink.stroke()
    for (const p of points) {
      ink.fillStyle = '#f7f6f2'
      ink.beginPath()
      ink.arc(p.x, p.y, size, 0, 7)
      ink.fill()
      ink.stroke()
    }
  }, [picture, points, by])
  const open = async (file: File) => {
    setError(null)
    setAnswer(null)
    setPoints([])
    try {
      setPicture(await openPhoto(file))
    } catch (e) {
      setPicture(null)
      setError(e)
    }
  }
  const read = async () => {
    if (!picture) return
    setBusy(true)
    setError(null)
    try {
      setAnswer(await compute('photoBands', { picture: greyOf(picture), by, known, points }))
    } catch (e) {
      setError(e)
    }
    setBusy(false)
  }
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Bands on a photo">
      <DropArea onFiles={([f]) => f && void open(f)}>
        <span className={ui.faint}>A photo straight across the bands: drop it here.</span>
        <Button onClick={choose}>Choose a photo</Button>
        <FileField input={input} label="Photo of bands" accept="image/*" onFiles={([f]) => void open(f)} />
      </DropArea>
      {!!error && <Problem error={error} />}
      {picture && (
        <>
          <div className={ui.row}>
            <Segmented<By>
              aria-label="What is known on the photo"
              value={by}
              onChange={(v) => {
                setBy(v)
                setPoints([])
                setAnswer(null)
              }}
              options={[
                { value: 'corners', label: 'a rectangle' },
                { value: 'length', label: 'a length' },
              ]}
            />
            <InputNumber
              aria-label={by === 'corners' ? 'Its first side' : 'The length'}
              min={0.5}
              max={1000}
              value={known.width}
              onChange={(v) => v && setKnown({ ...known, width: v })}
              suffix="mm"
              style={{ width: 110 }}
            />
            {by === 'corners' && (
              <InputNumber
                aria-label="Its second side"
                min={0.5}
                max={1000}
                value={known.height}
                onChange={(v) => v && setKnown({ ...known, height: v })}
                suffix="mm"
                style={{ width: 110 }}
              />
            )}
          </div>
          <p role="status">
            {all ? (
              'All places are set.'
            ) : (
              <>
                Click: <strong>{steps[points.length]}</strong>.
              </>
            )}{' '}
            {points.length > 0 && (
              <button type="button" className={ui.linkish} onClick={() => setPoints(points.slice(0, -1))}>
                One back
              </button>
            )}
          </p>
          <canvas
            ref={canvas}
            className={styles.photo}
            data-testid="photo"
            onClick={(e) => {
              if (all) return
              const box = e.currentTarget.getBoundingClientRect()
              setAnswer(null)
              setPoints([
                ...points,
                {
                  x: ((e.clientX - box.left) / box.width) * picture.width,
                  y: ((e.clientY - box.top) / box.height) * picture.height,
                },
              ])
            }}
          />
          <div className={ui.row}>
            <Button type="primary" disabled={!all} loading={busy} onClick={() => void read()}>
              Read along the line
            </Button>
            {answer?.spacing && answer.spacing.p <= 0.05 && (
              <Button onClick={() => onFound({ value: answer.spacing!.value, u: answer.spacing!.u })}>
                Take {figure(answer.spacing.value, 3)} mm
              </Button>
            )}
          </div>
          {answer && (
            <>
              <Profile values={answer.profile} step={answer.step} />
              <p>
                {answer.spacing && answer.spacing.p <= 0.05 ? (
                  <>
                    Every <span className={ui.figure}>{figure(answer.spacing.value, 3)} mm</span> ±{' '}
                    {figure(2 * answer.spacing.u, 3)}.
                  </>
                ) : (
                  'No spacing stands out of the noise along this line.'
                )}
              </p>
            </>
          )}
        </>
      )}
    </section>
  )
}

/** Brightness along the line. */
function Profile({ values, step }: { values: readonly number[]; step: number }) {
  const width = 560
  const x = linear([0, Math.max(1, values.length - 1)], [4, width - 4])
  const low = Math.min(...values)
  const y = linear([low, Math.max(low + 1, ...values)], [84, 6])
  return (
    <svg
      viewBox={`0 0 ${width} 104`}
      className={styles.profile}
      role="img"
      aria-label="Brightness along the line"
    >
      <polyline points={values.map((v, i) => `${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(' ')} />
      <text x={4} y={100}>
        0
      </text>
      <text x={width - 4} y={100} textAnchor="end">
        {figure((values.length - 1) * step, 1)} mm
      </text>
    </svg>
  )
}
