import { Input, Segmented } from 'antd'
import { signsThat } from '@verimend/core/casework'
import {
  FAMILIES_OF_FAULT,
  PLACES,
  SIGNS_AT,
  SIGN_IDS,
  SIGNS,
  signOf,
  type FaultFamily,
  type PlaceId,
  type SignId,
} from '@verimend/core/knowledge'
import type { SignState, SignStates } from '@verimend/core/diagnosis'
import { finder, signFindable } from '@verimend/core/words'
import { memo, useCallback, useState } from 'react'
import { Answers, type Answer } from '../components/Answers'
import { SignDrawing } from '../drawing/SignDrawing'
import { SignPictures } from '../drawing/SignPictures'
import { hasPictures } from '../drawing/hasPictures'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './SignPicker.module.css'

type State = SignState | null
const ANSWERS: Answer<State>[] = [
  { value: 'present', label: 'Seen', tone: 'bad' },
  { value: 'absent', label: 'Not there', tone: 'absent' },
  { value: null, label: 'Not looked', tone: 'neutral' },
]

/** Signs by family, each with its drawing and three answers. A sign nobody looked at says nothing. */
export function SignPicker({
  signs,
  onSet,
  start,
  place: first = null,
}: {
  signs: SignStates
  onSet: (sign: SignId, state: State) => void
  start: FaultFamily
  /** Where it was said to be: its signs come first. */
  place?: PlaceId | null
}) {
  const [by, setBy] = useState<'place' | 'family'>(first ? 'place' : 'family')
  const [family, setFamily] = useState<FaultFamily>(start)
  const [place, setPlace] = useState<PlaceId>(first ?? 'walls')
  const [text, setText] = useState('')
  const chosen = by === 'place' ? SIGNS_AT[place] : SIGN_IDS.filter((s) => SIGNS[s].family === family)
  const words = text.trim()
  const ids = words ? findSigns(words).map((s) => s.id) : chosen
  return (
    <div className={ui.stack}>
      <Finder
        text={text}
        onText={setText}
        by={by}
        place={place}
        family={family}
        seen={signsThat('present', signs).join()}
        onBy={setBy}
        onPlace={setPlace}
        onFamily={setFamily}
      />
      {ids.length === 0 && (
        <p className={ui.faint} role="status">
          No sign matches these words. Find it by kind of fault, or by where it is.
        </p>
      )}
      <div className={styles.signgrid}>
        {ids.map((id) => (
          <SignCard key={id} id={id} state={signs[id] ?? null} onSet={onSet} />
        ))}
      </div>
    </div>
  )
}

const findSigns = finder(SIGN_IDS.map((id) => ({ id, ...signFindable(id) })))

/** Where to look. Drawn anew only when another sign is seen. */
const Finder = memo(function Finder({
  text,
  onText,
  by,
  place,
  family,
  seen,
  onBy,
  onPlace,
  onFamily,
}: {
  text: string
  onText: (text: string) => void
  by: 'place' | 'family'
  place: PlaceId
  family: FaultFamily
  /** Signs that are seen, with commas between. */
  seen: string
  onBy: (by: 'place' | 'family') => void
  onPlace: (place: PlaceId) => void
  onFamily: (family: FaultFamily) => void
}) {
  const all = seen.split(',')
  const labelled = (label: string, ids: readonly SignId[]) => {
    const count = ids.filter((id) => all.includes(id)).length
    return count ? `${label} (${count})` : label
  }
  return (
    <>
      <div className={ui.row}>
        <span className={clsx(ui.faint, ui.small)}>Find it by</span>
        <Segmented
          size="small"
          value={by}
          onChange={onBy}
          options={[
            { value: 'family' as const, label: 'kind of fault' },
            { value: 'place' as const, label: 'where it is' },
          ]}
        />
        <Input
          allowClear
          size="small"
          aria-label="Find a sign by a word"
          placeholder="or a word for it"
          value={text}
          onChange={(e) => onText(e.target.value)}
          style={{ flex: '0 1 200px' }}
        />
      </div>
      {by === 'place' && !text.trim() && (
        <div className={ui.tablewrap}>
          <Segmented
            aria-label="Where on the part is it?"
            value={place}
            onChange={onPlace}
            options={PLACES.map((p) => ({ value: p.id, label: labelled(p.label, SIGNS_AT[p.id]) }))}
          />
        </div>
      )}
      <div className={ui.tablewrap} hidden={by !== 'family' || !!text.trim()}>
        <Segmented
          aria-label="Family of faults"
          value={family}
          onChange={onFamily}
          options={FAMILIES_OF_FAULT.map((f) => ({
            value: f.id,
            label: labelled(
              f.label,
              SIGN_IDS.filter((s) => SIGNS[s].family === f.id),
            ),
          }))}
        />
      </div>
    </>
  )
})

/** A sign with its drawing. Drawn anew only when its own answer changes. */
const SignCard = memo(function SignCard({
  id,
  state,
  onSet,
}: {
  id: SignId
  state: State
  onSet: (sign: SignId, state: State) => void
}) {
  const sign = signOf(id)
  const answer = useCallback((s: State) => onSet(id, s), [id, onSet])
  return (
    <fieldset className={styles.signcard} data-sign={id} data-state={state ?? undefined}>
      <legend className={ui.visuallyHidden}>{sign.name}</legend>
      <div className={ui.row} style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
        <SignDrawing sign={id} />
        <div>
          <h3>{sign.name}</h3>
          <p className={clsx(ui.faint, ui.small)}>{sign.text}</p>
        </div>
      </div>
      <p className={clsx(ui.small, ui.faint)}>
        <strong>Look:</strong> {sign.where}
        {sign.unlike && (
          <>
            {' '}
            <strong>Not {signOf(sign.unlike.id).name.toLowerCase()}?</strong> {sign.unlike.tell}
          </>
        )}
      </p>
      {hasPictures(id) && (
        <details>
          <summary className={ui.small}>On a print</summary>
          <SignPictures sign={id} />
        </details>
      )}
      <Answers name={`sign-${id}`} options={ANSWERS} value={state} onAnswer={answer} />
    </fieldset>
  )
})
