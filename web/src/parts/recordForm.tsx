import { Form, type FormInstance } from 'antd'
import { useEffect } from 'react'
import type { z } from 'zod'
import { ApiProblem } from '../api/client'

/** Lays issues of a schema or a problem document onto the fields of a form. Returns what found no field. */
export function layIssues(
  form: FormInstance,
  issues: { path: (string | number)[]; message: string }[],
): string[] {
  const left: string[] = []
  for (const issue of issues) {
    const known = form.getFieldInstance(issue.path) as unknown
    if (known || form.getFieldsError([issue.path]).length)
      form.setFields([{ name: issue.path, errors: [issue.message] }])
    left.push(issue.message)
  }
  return left
}

const asPath = (text: string) => text.split('.').map((p) => (/^\d+$/.test(p) ? Number(p) : p))

/**
 * A form whose draft outlives a reload and whose values are checked by the contract's schema.
 * @returns the form, and `check`, which lays faults on the fields and answers with the parsed value or null
 */
export function useRecordForm<S extends z.ZodType>(schema: S, draftKey: string, initial: z.input<S>) {
  const [form] = Form.useForm()
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
    if (parsed.success) return parsed.data
    const issues = parsed.error.issues.map((i) => ({
      path: i.path as (string | number)[],
      message: i.message,
    }))
    layIssues(form, issues)
    form.scrollToField(issues[0].path, { block: 'center', focus: true })
    return null
  }
  const layProblem = (error: unknown) => {
    if (error instanceof ApiProblem && error.problem.fields)
      layIssues(
        form,
        error.problem.fields.map((f) => ({ path: asPath(f.path).slice(1), message: f.message })),
      )
  }
  return { form, keep, forget, check, layProblem }
}
