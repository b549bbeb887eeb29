import { useMutation, useQueryClient } from '@tanstack/react-query'
import { App, Button, Dropdown } from 'antd'
import type { PairDetail, PartRecord } from '@verimend/contract'
import { currentFile, type PartView } from '@verimend/core/casework'
import { FAMILIES_OF_FAULT } from '@verimend/core/knowledge'
import type { FrontView } from '@verimend/core/planner'
import type { PathReading } from '@verimend/core/toolpath'
import { keysOf } from '@verimend/core/recipe'
import { settingText } from '@verimend/core/words'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { ApiProblem } from '../api/http'
import { changed, keys } from '../api/keys'
import { useLink } from '../api/queries'
import { percent } from '../components/format'
import { Problem } from '../components/states'
import { keepFile } from '../workers/keepFile'
import type { PlanAsk, PlanSide } from '../workers/part.worker'
import { figureLines } from './Outlook'
import type { PartWork } from './partWork'
import { partPicture } from './picture'
import { saveFile } from './saveFile'
import ui from '../components/ui.module.css'
import { newId } from '../api/ids'

/** One of two plans, with what it was asked for. */
interface Side {
  ask: PlanAsk
  view: PartView
  pair: PairDetail
}

/** A page of a plan in Markdown: what it is of, what it takes, what may go wrong. */
function pageOf({ ask, view, pair }: Side, name: string): string {
  const plain = (text: string) => text.replace(/[\\`*_{}[\]<>#|]/g, (c) => `\\${c}`)
  const lines = [
    `# ${plain(name)}, planned`,
    '',
    ...ask.notes.map((n) => `- ${plain(n)}`),
    ...keysOf(ask.own).map((k) => `- For this plan: ${plain(settingText(k, ask.own[k]!))}`),
    '',
    '| | |',
    '| --- | ---: |',
    ...figureLines(view).map(([label, value]) => `| ${label} | ${value} |`),
    '',
    '| What may go wrong | Chance |',
    '| --- | ---: |',
    ...view.forecast.map(
      (f) =>
        `| ${FAMILIES_OF_FAULT.find((x) => x.id === f.family)!.label} | ${percent(f.chance).replace(/[<>]/g, (c) => `\\${c}`)} |`,
    ),
    '',
    `Held within ${plain(pair.machine.machine.name)}'s limits.`,
    '',
  ]
  return lines.join('\n')
}

/** Whether a plan stands on the bed otherwise than the print before it: another side is up. */
function standsOtherwise(before: PathReading | undefined, now: PathReading): boolean {
  const [a, b] = [before?.build.size, now.build.size]
  return !!a && !!b && Math.abs(a.z - b.z) > Math.max(0.5, 0.02 * a.z)
}

/** Takes a plan away: as G-code, as a page or a picture, into a case; or the part as it stands as 3MF. */
export function TakeAway({
  part,
  version,
  work,
  now,
  then,
  front,
}: {
  part: PartRecord
  version: number
  work: PartWork
  now: Side
  then: Side | null
  front: FrontView | null
}) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const stem =
    part.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'part'
  const shown = then ?? now
  const open = part.cases.filter((c) => c.status === 'open' && c.pairId === shown.pair.id)
  const gcode = async (which: PlanSide) => {
    const side = which === 'then' ? then! : now
    const { text } = await work.run('gcode', { side: which })
    saveFile(`${stem}${which === 'then' ? '-changed' : ''}.gcode`, text, 'text/x.gcode')
    const kept = await api.parts.addPlan(part.id, {
      id: newId(),
      pairId: side.pair.id,
      recipe: side.pair.current,
      version,
      minutes: side.view.reading.seconds / 60,
      grams: side.view.reading.filament.mass,
    })
    client.setQueryData(keys.parts.one(part.id), kept)
    await changed.part(client)
  }
  const link = useLink(shown.pair.machine.id)
  const navigate = useNavigate()
  /** What of the plan is otherwise than the case's last print becomes its attempt. @returns the attempt, if there is one */
  const asAttempt = async (caseId: string): Promise<number | null> => {
    const kase = await api.cases.one(caseId)
    const changes = keysOf(shown.ask.own).flatMap((key) => {
      const [from, to] = [shown.pair.version.values[key].value, shown.ask.own[key]!]
      return from === to ? [] : [{ key, from, to }]
    })
    const turned = standsOtherwise(currentFile(kase).file?.reading, shown.view.reading)
    if (!changes.length && !turned) return null
    try {
      const { attempts } = await api.cases.takeUp(caseId, { from: 'part', partId: part.id, changes, turned })
      return attempts.at(-1)?.number ?? null
    } catch (error) {
      // nothing of it fixes what was seen: it is a print like any other
      if (error instanceof ApiProblem && error.problem.code === 'fixes-nothing') return null
      throw error
    }
  }
  const print = async () => {
    const { text, sha256 } = await work.run('gcode', { side: then ? 'then' : 'now' })
    const file = new File([text], `${stem}.gcode`)
    await keepFile(file, sha256, () => undefined, new AbortController().signal)
    if (open.length === 1) await asAttempt(open[0].id)
    const sent = await api.prints.create(
      newId(),
      shown.pair.id,
      { kind: 'file', name: file.name, sha256 },
      open.length === 1 ? open[0].id : null,
    )
    client.setQueryData(keys.prints.one(sent.id), sent)
    await changed.prints(client)
    void navigate(`/prints/${sent.id}`)
  }
  const intoCase = async (caseId: string) => {
    const { text, sha256 } = await work.run('gcode', { side: then ? 'then' : 'now' })
    const file = new File([text], `${stem}-planned.gcode`)
    await keepFile(file, sha256, () => undefined, new AbortController().signal)
    const attempt = await asAttempt(caseId)
    const kase = await api.cases.addFile(caseId, {
      name: file.name,
      bytes: file.size,
      sha256,
      reading: shown.view.reading,
    })
    client.setQueryData(keys.cases.one(caseId), kase)
    await changed.case(client, kase.pairId)
    void message.success(
      attempt === null
        ? 'This plan is the case’s print file now.'
        : `This plan is attempt ${attempt} of the case. Print it, then say there what became of it.`,
    )
  }
  const take = useMutation({
    mutationFn: async (what: string) => {
      if (what === 'now' || what === 'then') return gcode(what)
      if (what === 'print') return print()
      if (what === '3mf')
        return saveFile(
          `${stem}.3mf`,
          await work.run('threeMf', {
            layout: shown.ask.layout,
            pair: shown.ask.pair,
            own: shown.ask.own,
            title: part.name,
            notes: shown.ask.notes,
          }),
          'model/3mf',
        )
      if (what === 'page') return saveFile(`${stem}.md`, pageOf(shown, part.name), 'text/markdown')
      if (what === 'picture')
        return saveFile(
          `${stem}.png`,
          await partPicture(
            part.name,
            figureLines(shown.view)
              .slice(0, 3)
              .map(([label, value]) => `${label}: ${value}`),
            front!,
            shown.view.above,
          ),
          'image/png',
        )
      return intoCase(what)
    },
  })
  const items = [
    { key: 'now', label: 'G-code, as it is' },
    ...(then ? [{ key: 'then', label: 'G-code, with the change' }] : []),
    ...(link ? [{ key: 'print', label: `To ${shown.pair.machine.machine.name}, simulated` }] : []),
    { key: '3mf', label: '3MF, as it stands' },
    { key: 'page', label: 'Page, Markdown' },
    ...(front ? [{ key: 'picture', label: 'Picture, PNG' }] : []),
    ...open.map((c) => ({ key: c.id, label: `Into the case ${c.part}, as its path file` })),
  ]
  return (
    <span className={ui.row}>
      {!!take.error && <Problem error={take.error} />}
      <Dropdown trigger={['click']} menu={{ items, onClick: ({ key }) => take.mutate(key) }}>
        <Button size="small" type="primary" loading={take.isPending}>
          Take it to print
        </Button>
      </Dropdown>
    </span>
  )
}
