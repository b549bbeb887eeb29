import ui from './ui.module.css'
import styles from './Answers.module.css'

/** How an answer is coloured once it is given. */
export type Tone = 'bad' | 'good' | 'absent' | 'neutral'

export interface Answer<V> {
  value: V
  label: string
  tone: Tone
}

/** One question with its answers in a row. */
export function Answers<V>({
  name,
  options,
  value,
  onAnswer,
}: {
  /** Of the radio group; one of its kind on the page. */
  name: string
  options: readonly Answer<V>[]
  value: V | undefined
  onAnswer: (value: V) => void
}) {
  return (
    <span className={styles.answers}>
      {options.map((o) => {
        const on = o.value === value
        return (
          <label key={o.label} data-on={on || undefined} data-tone={o.tone}>
            <input
              type="radio"
              className={ui.visuallyHidden}
              name={name}
              checked={on}
              onChange={() => onAnswer(o.value)}
            />
            {o.label}
          </label>
        )
      })}
    </span>
  )
}
