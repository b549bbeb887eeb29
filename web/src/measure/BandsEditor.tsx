import { Button, Segmented } from 'antd'
import type { MeasuredOf } from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { useState } from 'react'
import { NumberList } from './NumberList'
import { PhotoBands } from './PhotoBands'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

type Bands = MeasuredOf<'bands'>

/** Heights of bands, or a photo across them. */
export function BandsEditor({ value, onChange }: { value: Bands; onChange: (value: Bands) => void }) {
  const [photo, setPhoto] = useState(false)
  return (
    <div className={ui.stack}>
      <p className={clsx(ui.faint, ui.small)}>
        Heights from the bed where bands stand, in any order; a few may be missing. Or lay a line across them
        on a photo.
      </p>
      <Segmented<'height' | 'wall'>
        aria-label="Which way they follow one another"
        value={value.along ?? 'height'}
        onChange={(along) => onChange({ ...value, along })}
        options={[
          { value: 'height', label: 'up the part' },
          { value: 'wall', label: 'along a wall' },
        ]}
      />
      <NumberList
        label={value.along === 'wall' ? 'Place of a rib' : 'Height of a band'}
        unit="mm"
        values={value.heights}
        most={200}
        onChange={(heights) => onChange({ ...value, heights })}
      />
      {value.spacing && (
        <div className={clsx(ui.row, ui.notice)}>
          <span>
            From the photo: <span className={ui.figure}>{figure(value.spacing.value, 3)} mm</span> ±{' '}
            {figure(2 * value.spacing.u, 3)}. It goes before the heights.
          </span>
          <Button size="small" onClick={() => onChange({ ...value, spacing: null })}>
            Leave it out
          </Button>
        </div>
      )}
      {photo ? (
        <PhotoBands onFound={(spacing) => onChange({ ...value, spacing })} />
      ) : (
        <div>
          <Button onClick={() => setPhoto(true)}>From a photo</Button>
        </div>
      )}
    </div>
  )
}
