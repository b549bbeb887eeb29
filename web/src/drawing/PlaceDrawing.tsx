import type { PlaceId } from '@verimend/core/knowledge'
import drawingStyles from './drawing.module.css'

const BED = 'M4 58H92'
/** One part for all: a block with a bore and an arm. */
const PART = 'M22 57V14H64V22H82V32H64V57ZM43 28a7 7 0 1 1-.1 0'

/** Where on it: the lines that are drawn over in the fault's colour. */
const WHERE: Record<PlaceId, string> = {
  base: 'M20 57H66M20 54H66',
  corners: 'M22 48V57H30M56 57H64V48M22 22V14H30M56 14H64V20',
  walls: 'M22 18V52M64 34V52',
  'one-height': 'M18 38H68M18 41H68',
  'loop-starts': 'M28 54V17M26 50H30M26 44H30M26 38H30M26 32H30M26 26H30M26 20H30',
  top: 'M22 14H64M24 17H62',
  holes: 'M43 28a7 7 0 1 1-.1 0M64 32H82',
  'all-over': 'M26 22H60M26 28H34M52 28H60M26 36H34M52 36H60M26 44H60M26 50H60M68 27H80',
  size: 'M22 6H64M22 3V9M64 3V9M90 22V32M87 22H93M87 32H93',
  strength: 'M18 44L28 40L36 47L46 40L54 47L68 42',
  printing: 'M38 2H50V8L46 12H42L38 8Z',
}

/** A place on a part; decoration beside its name. */
export function PlaceDrawing({ place }: { place: PlaceId }) {
  return (
    <svg viewBox="0 0 96 64" width={72} height={48} aria-hidden="true" className={drawingStyles.signdrawing}>
      <path d={BED} className={drawingStyles.aid} />
      <path d={PART} className={drawingStyles.part} />
      <path d={WHERE[place]} className={drawingStyles.flaw} />
    </svg>
  )
}
