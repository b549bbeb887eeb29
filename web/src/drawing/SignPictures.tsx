import type { SignId } from '@verimend/core/knowledge'
import { SIGN_PICTURES } from './signPictures'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import drawingStyles from './drawing.module.css'

const WORDS = { none: 'not there', slight: 'slight', clear: 'clear' }
/** Pixels of one picture, and between two. */
const [WIDE, TALL, GAP] = [260, 180, 8]

/** How a sign looks on a print: not there, slight, clear. From a simulated machine; nothing where it has no pictures. */
export function SignPictures({ sign }: { sign: SignId }) {
  const levels = SIGN_PICTURES[sign]
  if (!levels) return null
  const width = levels.length * WIDE + (levels.length - 1) * GAP
  return (
    <figure className={drawingStyles.signpictures}>
      <img
        src={`/signs/${sign}.webp`}
        width={width}
        height={TALL}
        loading="lazy"
        alt={`On a simulated print: ${levels.map((l) => WORDS[l]).join(', ')}`}
      />
      <figcaption
        aria-hidden="true"
        className={clsx(ui.small, ui.faint)}
        style={{ gridTemplateColumns: `repeat(${levels.length}, 1fr)` }}
      >
        {levels.map((l) => (
          <span key={l}>{WORDS[l]}</span>
        ))}
      </figcaption>
    </figure>
  )
}
