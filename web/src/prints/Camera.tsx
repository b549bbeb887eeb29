import type { Print } from '@verimend/contract'
import { api } from '../api/client'
import styles from './prints.module.css'

/** Pictures that are taken of a print while it runs. */
const STILLS = 10

/** What the machine's camera sees, a new picture every tenth of the layers. */
export function Camera({ print, wide = false }: { print: Print; wide?: boolean }) {
  const shot = Math.floor((STILLS * print.layer) / Math.max(1, print.layerCount))
  return (
    <img
      className={styles.still}
      data-wide={wide || undefined}
      src={api.prints.cameraHref(print.id, shot)}
      alt="What the machine’s camera sees"
    />
  )
}
