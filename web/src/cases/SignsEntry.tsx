import { Button } from 'antd'
import { signsThat } from '@verimend/core/casework'
import type { SignStates } from '@verimend/core/diagnosis'
import { SIGNS, type PlaceId } from '@verimend/core/knowledge'
import { signName, signNames } from '@verimend/core/words'
import { memo, useState } from 'react'
import { SignDrawing } from '../drawing/SignDrawing'
import type { CaseActions } from './useCaseActions'
import { Entry } from './Entry'
import { SignPicker } from './SignPicker'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './SignsEntry.module.css'

/** The signs as they stand, and the place to look at more of them. */
export const SignsEntry = memo(function SignsEntry({
  signs,
  place,
  tried,
  editable,
  onMark,
}: {
  signs: SignStates
  place: PlaceId | null
  /** An attempt was made. */
  tried: boolean
  editable: boolean
  onMark: CaseActions['mark']
}) {
  const seen = signsThat('present', signs)
  const absent = signsThat('absent', signs)
  const [looking, setLooking] = useState(() => seen.length === 0 && !tried)
  return (
    <Entry
      kind="seen"
      title={tried ? 'Signs now' : 'What is there to see'}
      aside={
        editable && (
          <Button size="small" onClick={() => setLooking(!looking)} data-testid="look">
            {looking ? 'Done looking' : 'Look at more signs'}
          </Button>
        )
      }
    >
      {looking && editable ? (
        <SignPicker
          signs={signs}
          onSet={onMark}
          start={seen[0] ? SIGNS[seen[0]].family : 'strings'}
          place={place}
        />
      ) : (
        <div className={clsx(ui.row, styles.seenlist)}>
          {seen.map((s) => (
            <span key={s} className={styles.seensign}>
              <SignDrawing sign={s} width={60} />
              {signName(s)}
            </span>
          ))}
          {seen.length === 0 && (
            <span className={ui.faint}>{editable ? 'No sign is marked as seen.' : 'Nothing left.'}</span>
          )}
          {absent.length > 0 && <span className={ui.faint}>Not there: {signNames(absent)}.</span>}
        </div>
      )}
    </Entry>
  )
})
