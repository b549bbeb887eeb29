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
  began,
  editable,
  onMark,
}: {
  signs: SignStates
  place: PlaceId | null
  /** As they were before the first attempt; undefined before there is one. */
  began: SignStates | undefined
  editable: boolean
  onMark: CaseActions['mark']
}) {
  const tried = began !== undefined
  const seen = signsThat('present', signs)
  const first = began ? signsThat('present', began) : seen
  const gone = first.filter((s) => !seen.includes(s))
  const absent = signsThat('absent', signs).filter((s) => !gone.includes(s))
  const [looking, setLooking] = useState(() => seen.length === 0 && !tried)
  return (
    <Entry
      kind="seen"
      title={tried ? 'Signs, first and now' : 'What is there to see'}
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
          {[...seen, ...gone].map((s) => (
            <span key={s} className={styles.seensign} data-gone={gone.includes(s) || undefined}>
              <SignDrawing sign={s} width={60} />
              <span>
                {signName(s)}
                {tried && (
                  <span
                    className={clsx(
                      styles.since,
                      gone.includes(s) ? ui.good : first.includes(s) ? ui.faint : ui.fault,
                    )}
                  >
                    {gone.includes(s) ? 'gone' : first.includes(s) ? 'from the first' : 'came later'}
                  </span>
                )}
              </span>
            </span>
          ))}
          {seen.length + gone.length === 0 && (
            <span className={ui.faint}>{tried ? 'Nothing is left.' : 'No sign is marked as seen.'}</span>
          )}
          {absent.length > 0 && <span className={ui.faint}>Not there: {signNames(absent)}.</span>}
        </div>
      )}
    </Entry>
  )
})
