import { Select, Slider } from 'antd'
import type { CasePhoto } from '@verimend/contract'
import { useState } from 'react'
import { api } from '../api/client'
import { shows } from './shows'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './BeforeAfter.module.css'

/** Two photos laid over each other; the slider shows more of one or of the other. */
export function BeforeAfter({ photos, from, to }: { photos: CasePhoto[]; from?: string; to?: string }) {
  const [left, setLeft] = useState(from ?? photos[0].id)
  const [right, setRight] = useState(to ?? photos.at(-1)!.id)
  const [share, setShare] = useState(50)
  const a = photos.find((p) => p.id === left) ?? photos[0]
  const b = photos.find((p) => p.id === right) ?? photos.at(-1)!
  const options = photos.map((p, i) => ({ value: p.id, label: `${i + 1}: ${p.note || shows(p)}` }))
  return (
    <figure className={styles.beforeafter} aria-label="Before and after">
      <div className={clsx(ui.row, ui.between)}>
        <Select
          size="small"
          aria-label="The photo on the left"
          value={a.id}
          onChange={setLeft}
          options={options}
          style={{ minWidth: 170 }}
        />
        <Select
          size="small"
          aria-label="The photo on the right"
          value={b.id}
          onChange={setRight}
          options={options}
          style={{ minWidth: 170 }}
        />
      </div>
      <div className={styles.overlay} style={{ aspectRatio: `${a.width} / ${a.height}` }}>
        <img src={api.photos.href(b.id)} alt={`The part ${shows(b)}`} />
        <img
          src={api.photos.href(a.id)}
          alt={`The part ${shows(a)}`}
          style={{ clipPath: `inset(0 ${100 - share}% 0 0)` }}
        />
        <i style={{ left: `${share}%` }} aria-hidden="true" />
      </div>
      <Slider
        value={share}
        onChange={setShare}
        ariaLabelForHandle="How much of the left photo shows"
        tooltip={{ open: false }}
      />
    </figure>
  )
}
