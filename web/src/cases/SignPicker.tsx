import { Segmented } from 'antd'
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
  type SignStates,
} from '@verimend/core'
import { useState } from 'react'
import { SignDrawing } from '../drawings/SignDrawing'

type State = 'present' | 'absent' | null
const ANSWERS: { value: State; label: string }[] = [
  { value: 'present', label: 'Seen' },
  { value: 'absent', label: 'Not there' },
  { value: null, label: 'Not looked' },
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
  const ids = by === 'place' ? SIGNS_AT[place] : SIGN_IDS.filter((s) => SIGNS[s].family === family)
  return (
    <div className="stack">
      <div className="row">
        <span className="faint small">Find it by</span>
        <Segmented
          size="small"
          value={by}
          onChange={(v) => setBy(v as typeof by)}
          options={[
            { value: 'family', label: 'kind of fault' },
            { value: 'place', label: 'where it is' },
          ]}
        />
      </div>
      {by === 'place' && (
        <div className="tablewrap">
          <Segmented
            aria-label="Where on the part is it?"
            value={place}
            onChange={(v) => setPlace(v)}
            options={PLACES.map((p) => {
              const seen = SIGNS_AT[p.id].filter((s) => signs[s] === 'present').length
              return { value: p.id, label: seen ? `${p.label} (${seen})` : p.label }
            })}
          />
        </div>
      )}
      <div className="tablewrap" hidden={by !== 'family'}>
        <Segmented
          aria-label="Family of faults"
          value={family}
          onChange={(v) => setFamily(v)}
          options={FAMILIES_OF_FAULT.map((f) => {
            const seen = SIGN_IDS.filter((s) => SIGNS[s].family === f.id && signs[s] === 'present').length
            return { value: f.id, label: seen ? `${f.label} (${seen})` : f.label }
          })}
        />
      </div>
      <div className="signgrid">
        {ids.map((id) => (
          <SignCard key={id} id={id} state={signs[id] ?? null} onSet={(s) => onSet(id, s)} />
        ))}
      </div>
    </div>
  )
}

function SignCard({ id, state, onSet }: { id: SignId; state: State; onSet: (s: State) => void }) {
  const sign = signOf(id)
  return (
    <fieldset className={`signcard ${state ?? ''}`} data-sign={id}>
      <legend className="visually-hidden">{sign.name}</legend>
      <div className="row" style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
        <SignDrawing sign={id} />
        <div>
          <h3>{sign.name}</h3>
          <p className="faint small">{sign.text}</p>
        </div>
      </div>
      <p className="small faint">
        <strong>Look:</strong> {sign.where}
        {sign.unlike && (
          <>
            {' '}
            <strong>Not {signOf(sign.unlike.id).name.toLowerCase()}?</strong> {sign.unlike.tell}
          </>
        )}
      </p>
      <div className="answers">
        {ANSWERS.map((a) => (
          <label key={a.label} className={state === a.value ? `on ${a.value ?? 'unlooked'}` : ''}>
            <input
              type="radio"
              name={`sign-${id}`}
              className="visually-hidden"
              checked={state === a.value}
              onChange={() => onSet(a.value)}
            />
            {a.label}
          </label>
        ))}
      </div>
    </fieldset>
  )
}
