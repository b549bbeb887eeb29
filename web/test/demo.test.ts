import {
  caseDetail,
  casePage,
  filamentRecord,
  lesson,
  measurementRecord,
  machineRecord,
  pairDetail,
  pairSummary,
  readinessPage,
  recipeVersion,
  relative,
  versionSummary,
} from '@verimend/contract'
import { z } from 'zod'
import { recorded } from './demo'

// the screens' tests are worth what the recorded answers are worth: they have to be today's
test.each([
  ['machines', /^machines$/, z.array(machineRecord)],
  ['rolls', /^filaments$/, z.array(filamentRecord)],
  ['pairs', /^pairs$/, z.array(pairSummary)],
  ['a pair', /^pairs\/[\w-]{36}$/, pairDetail],
  ['versions', /^pairs\/[\w-]{36}\/versions$/, z.array(versionSummary)],
  ['a version', /^pairs\/[\w-]{36}\/versions\/\d+$/, recipeVersion],
  ['readiness', /^pairs\/readiness$/, readinessPage],
  ['relatives', /^pairs\/relatives/, z.array(relative)],
  ['cases', /^cases$/, casePage],
  ['a case', /^cases\/[\w-]{36}$/, caseDetail],
  ['measurements', /^measurements\?/, z.array(measurementRecord)],
  ['lessons', /^cases\/lessons/, z.array(lesson)],
] as [string, RegExp, z.ZodType][])('%s as recorded are what the contract says', (_, path, schema) => {
  const answers = Object.entries(recorded()).filter(([asked]) => path.test(asked.slice('GET '.length)))
  expect(answers.length).toBeGreaterThan(0)
  for (const [asked, answer] of answers) {
    const parsed = schema.safeParse(answer)
    expect({ asked, wrong: parsed.error?.issues.slice(0, 3) }).toEqual({ asked, wrong: undefined })
  }
})
