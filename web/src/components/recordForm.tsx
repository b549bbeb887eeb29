import { Form, type FormInstance } from 'antd'
import { useEffect, useState } from 'react'
import type { z } from 'zod'
import { ApiProblem } from '../api/http'

type Path = (string | number)[]
interface Fault {
  path: Path
  message: string
}

/**
 * Lays faults of a schema or a problem document onto the fields of a form: a fault inside what one field holds,
 * such as the upper end of a range, goes to that field; of several at one field the first is shown.
 * @returns the sentences that found no field
 */
export function layIssues(form: FormInstance, issues: readonly Fault[]): string[] {
  const fields = form.getFieldsError().map((f) => f.name)
  const left: string[] = []
  const laid = new Map<string, Fault>()
  for (const issue of issues) {
    const field = fields
      .filter((name) => name.every((part, i) => String(part) === String(issue.path[i])))
      .sort((a, b) => b.length - a.length)[0]
    if (!field) left.push(issue.message)
    else if (!laid.has(field.join('.')))
      laid.set(field.join('.'), { path: [...field], message: issue.message })
  }
  form.setFields([...laid.values()].map((f) => ({ name: f.path, errors: [f.message] })))
  return left
}

const asPath = (text: string) => text.split('.').map((p) => (/^\d+$/.test(p) ? Number(p) : p))

/**
 * A form whose draft outlives a reload and whose values are checked by the contract's schema.
 * @returns the form; `check`, which lays faults on the fields and answers with the parsed value or null; and
 *   `stray`, the sentences of the last check that belong to no field
 */
export function useRecordForm<S extends z.ZodType>(schema: S, draftKey: string, initial: z.input<S>) {
  const [form] = Form.useForm()
  const [stray, setStray] = useState<string[]>([])
  useEffect(() => {
    form.setFieldsValue(initial)
    try {
      const kept = sessionStorage.getItem(draftKey)
      if (kept) form.setFieldsValue(JSON.parse(kept))
    } catch {
      sessionStorage.removeItem(draftKey)
    }
    // only when another record is opened: typing must not be overwritten
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [draftKey])
  const keep = () => sessionStorage.setItem(draftKey, JSON.stringify(form.getFieldsValue(true)))
  const forget = () => sessionStorage.removeItem(draftKey)
  const check = (value: unknown): z.output<S> | null => {
    const parsed = schema.safeParse(value)
    setStray([])
    if (parsed.success) return parsed.data
    const issues = parsed.error.issues.map((i) => ({ path: i.path as Path, message: i.message }))
    setStray(layIssues(form, issues))
    const shown = form.getFieldsError().find((f) => f.errors.length)
    // always: a field under the sticky header counts as in view otherwise
    if (shown) form.scrollToField(shown.name, { block: 'center', scrollMode: 'always', focus: true })
    return null
  }
  const layProblem = (error: unknown) => {
    if (error instanceof ApiProblem && error.problem.fields)
      layIssues(
        form,
        error.problem.fields.map((f) => ({ path: asPath(f.path).slice(1), message: f.message })),
      )
  }
  return { form, keep, forget, check, layProblem, stray }
}
