import { useQueryClient } from '@tanstack/react-query'
import { Button, Input } from 'antd'
import type { CaseDetail } from '@verimend/contract'
import { memo, useState } from 'react'
import { api } from '../api/client'
import { ApiProblem } from '../api/http'
import { keys } from '../api/keys'
import { useCaseChange } from '../api/queries'
import { ago } from '../components/format'
import { Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './CaseHead.module.css'

const SHOWN = ['id', 'part', 'note', 'status', 'createdAt'] as const
type Shown = { kase: Pick<CaseDetail, (typeof SHOWN)[number]> }
const sameHead = (a: Shown, b: Shown) => SHOWN.every((key) => a.kase[key] === b.kase[key])

/** Part, state and note of a case; both texts are kept as they are typed. */
export const CaseHead = memo(function CaseHead({ kase }: Shown) {
  const { id } = kase
  const [part, setPart] = useState(kase.part)
  const [note, setNote] = useState(kase.note)
  const client = useQueryClient()
  const save = useCaseChange(id, (v: { part: string; note: string }) =>
    api.cases.update(id, { part: kase.part, note: kase.note }, v.part, v.note),
  )
  const conflict =
    save.error instanceof ApiProblem && save.error.problem.status === 409
      ? (save.error.problem.current as { part: string; note: string })
      : null
  const keep = () => {
    if (part.trim() && (part !== kase.part || note !== kase.note)) save.mutate({ part, note })
  }
  return (
    <div className={styles.casehead}>
      <h1 className={ui.visuallyHidden}>{kase.part}</h1>
      <div className={ui.pagehead}>
        <Input.TextArea
          className={styles.titlefield}
          aria-label="The part"
          value={part}
          maxLength={120}
          rows={1}
          onChange={(e) => setPart(e.target.value.replace(/\s*\n\s*/g, ' '))}
          onBlur={keep}
          onPressEnter={(e) => {
            e.preventDefault()
            e.currentTarget.blur()
          }}
          variant="borderless"
        />
        <span className={kase.status === 'closed' ? clsx(ui.tag, ui.good) : clsx(ui.tag, ui.info)}>
          {kase.status}
        </span>
        <span className={ui.faint}>begun {ago(kase.createdAt)}</span>
      </div>
      <Input.TextArea
        aria-label="Note on the case"
        placeholder="Note: when it began, what was different that day"
        value={note}
        maxLength={4000}
        rows={1}
        onChange={(e) => setNote(e.target.value)}
        onBlur={keep}
        variant="borderless"
        className={styles.notefield}
      />
      {conflict ? (
        <div className={clsx(ui.notice, ui.caution, ui.row, ui.between)} role="alert">
          <span className={ui.wrap}>
            Changed in another window to “{conflict.part}”{conflict.note ? `, “${conflict.note}”` : ''}. Yours
            is kept here.
          </span>
          <Button
            size="small"
            onClick={() =>
              void client.invalidateQueries({ queryKey: keys.cases.one(id) }).then(() => save.reset())
            }
          >
            Save mine over it
          </Button>
        </div>
      ) : (
        !!save.error && <Problem error={save.error} again={keep} />
      )}
    </div>
  )
}, sameHead)
