import { Button, Input, InputNumber, Modal, Segmented, Select } from 'antd'
import type { CaseDetail, CasePhoto, PhotoMark, UpdatePhoto } from '@verimend/contract'
import { quantity } from '@verimend/core/quantity'
import { useRef, useState, type PointerEvent } from 'react'
import { api } from '../api/client'
import { useCaseChange } from '../api/queries'
import { Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import { useTyped } from '../components/useTyped'
import styles from './PhotoView.module.css'

const longOf = (m: PhotoMark & { kind: 'length' }) => Math.hypot(m.x2 - m.x1, m.y2 - m.y1)

/** One photo, large: rings round what is meant, lengths once one length in it is known, a note. */
export function PhotoView({
  caseId,
  attempts,
  photo,
  onClose,
  onRemove,
}: {
  caseId: string
  attempts: CaseDetail['attempts']
  photo: CasePhoto
  onClose: () => void
  onRemove: () => void
}) {
  const [tool, setTool] = useState<PhotoMark['kind']>('ring')
  const [draft, setDraft] = useState<PhotoMark | null>(null)
  const [known, setKnown] = useState<number | null>(null)
  const svg = useRef<SVGSVGElement>(null)
  const update = useCaseChange(caseId, (change: Partial<UpdatePhoto>) =>
    api.photos.update(photo.id, {
      note: photo.note,
      marks: photo.marks,
      scale: photo.scale,
      afterAttempt: photo.afterAttempt,
      ...change,
    }),
  )
  const [note, setNote, leaveNote] = useTyped(photo.note, (text) => update.mutate({ note: text }))
  const at = (e: PointerEvent) => {
    const box = svg.current!.getBoundingClientRect()
    const clamp = (v: number, most: number) => Math.min(most, Math.max(0, v))
    return {
      x: clamp(((e.clientX - box.left) / box.width) * photo.width, photo.width),
      y: clamp(((e.clientY - box.top) / box.height) * photo.height, photo.height),
    }
  }
  // a pointer can move and be lifted before the page is drawn again: what is drawn is kept beside the state
  const drawn = useRef<PhotoMark | null>(null)
  const show = (mark: PhotoMark | null) => {
    drawn.current = mark
    setDraft(mark)
  }
  const begin = (e: PointerEvent) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    const { x, y } = at(e)
    show(tool === 'ring' ? { kind: 'ring', x, y, r: 2 } : { kind: 'length', x1: x, y1: y, x2: x, y2: y })
  }
  const reached = (mark: PhotoMark, e: PointerEvent): PhotoMark => {
    const { x, y } = at(e)
    return mark.kind === 'ring'
      ? { ...mark, r: Math.max(2, Math.hypot(x - mark.x, y - mark.y)) }
      : { ...mark, x2: x, y2: y }
  }
  const move = (e: PointerEvent) => {
    if (drawn.current) show(reached(drawn.current, e))
  }
  const end = (e: PointerEvent) => {
    if (!drawn.current) return
    const mark = reached(drawn.current, e)
    const size = mark.kind === 'ring' ? mark.r : longOf(mark)
    if (size > photo.width / 100) update.mutate({ marks: [...photo.marks, mark] })
    show(null)
  }
  const lengths = photo.marks.filter((m) => m.kind === 'length')
  const marks = draft ? [...photo.marks, draft] : photo.marks
  const thin = photo.width / 280
  return (
    <Modal open onCancel={onClose} footer={null} width={920} title={note || 'Photo'} destroyOnHidden>
      <div className={ui.stack}>
        <div className={ui.row}>
          <Segmented
            value={tool}
            onChange={(v) => setTool(v as PhotoMark['kind'])}
            options={[
              { value: 'ring', label: 'Ring' },
              { value: 'length', label: 'Length' },
            ]}
          />
          <span className={clsx(ui.faint, ui.small)}>
            {tool === 'ring'
              ? 'Draw from the middle of what you mean outwards.'
              : photo.scale
                ? 'Draw along what you want to know.'
                : 'Draw along something whose length you know, and say how long it is.'}
          </span>
          <span className={ui.grow} />
          {photo.marks.length > 0 && (
            <Button size="small" onClick={() => update.mutate({ marks: photo.marks.slice(0, -1) })}>
              Take the last mark away
            </Button>
          )}
        </div>
        <div className={styles.photolarge} style={{ aspectRatio: `${photo.width} / ${photo.height}` }}>
          <img src={api.photos.href(photo.id)} alt={note || 'The part'} />
          <svg
            ref={svg}
            viewBox={`0 0 ${photo.width} ${photo.height}`}
            onPointerDown={begin}
            onPointerMove={move}
            onPointerUp={end}
            onPointerCancel={() => show(null)}
            role="img"
            aria-label={`${photo.marks.length} marks on the photo`}
            data-testid="marking"
          >
            {marks.map((m, i) =>
              m.kind === 'ring' ? (
                <g key={i} fill="none">
                  <circle cx={m.x} cy={m.y} r={m.r} className={styles.casing} strokeWidth={thin * 2.4} />
                  <circle cx={m.x} cy={m.y} r={m.r} className={styles.mark} strokeWidth={thin} />
                </g>
              ) : (
                <g key={i}>
                  <line
                    {...{ x1: m.x1, y1: m.y1, x2: m.x2, y2: m.y2 }}
                    className={styles.casing}
                    strokeWidth={thin * 2.4}
                  />
                  <line
                    {...{ x1: m.x1, y1: m.y1, x2: m.x2, y2: m.y2 }}
                    className={styles.mark}
                    strokeWidth={thin}
                  />
                  {photo.scale && (
                    <text
                      x={(m.x1 + m.x2) / 2}
                      y={(m.y1 + m.y2) / 2 - thin * 3}
                      fontSize={thin * 11}
                      textAnchor="middle"
                      strokeWidth={thin * 2}
                    >
                      {quantity(longOf(m) * photo.scale, 'mm', 1)}
                    </text>
                  )}
                </g>
              ),
            )}
          </svg>
        </div>
        {tool === 'length' && lengths.length > 0 && (
          <div className={ui.row}>
            <span>The last line is</span>
            <InputNumber
              aria-label="Length of the last line, mm"
              min={0.1}
              max={2000}
              value={known}
              onChange={setKnown}
              suffix="mm"
              style={{ width: 120 }}
            />
            <Button
              disabled={!known}
              onClick={() => update.mutate({ scale: known! / longOf(lengths.at(-1)!) })}
            >
              Set the scale by it
            </Button>
            {photo.scale && (
              <Button type="text" onClick={() => update.mutate({ scale: null })}>
                Forget the scale
              </Button>
            )}
          </div>
        )}
        <div className={ui.row}>
          <Input
            aria-label="Note on the photo"
            placeholder="What it shows"
            value={note}
            maxLength={400}
            onChange={(e) => setNote(e.target.value)}
            onBlur={leaveNote}
            onPressEnter={(e) => e.currentTarget.blur()}
            style={{ flex: 1, minWidth: 180 }}
          />
          <Select
            aria-label="Which print it shows"
            value={photo.afterAttempt}
            onChange={(v: number) => update.mutate({ afterAttempt: v })}
            options={[0, ...attempts.map((a) => a.number)].map((n) => ({
              value: n,
              label: n === 0 ? 'before any change' : `after attempt ${n}`,
            }))}
            style={{ minWidth: 170 }}
          />
          <Button onClick={onRemove}>Take it out</Button>
        </div>
        {!!update.error && <Problem error={update.error} />}
      </div>
    </Modal>
  )
}
