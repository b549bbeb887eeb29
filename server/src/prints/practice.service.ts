import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import type { Revealed } from '@verimend/contract'
import { NAMED_BY } from '@verimend/core/casework'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import type { Machine } from '@verimend/core/machine'
import type { Filament } from '@verimend/core/material'
import { CasesRepository } from '../cases/cases.repository'
import { CasesService } from '../cases/cases.service'
import { DiagnosisService } from '../diagnosis/diagnosis.service'
import { FilamentsService } from '../filaments/filaments.service'
import { today } from '../http/day'
import { LinksService } from '../links/links.service'
import { MachinesService } from '../machines/machines.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { PairsService } from '../pairs/pairs.service'
import { notFound } from '../problem/problem'
import { PrintsRepository } from './prints.repository'

type Kind = 'tube' | 'direct' | 'enclosed'

/** Kinds of machine to practise on, in general words. */
const KINDS: Record<Kind, { name: string; machine: Machine; roll: Filament }> = (() => {
  const { shed, greenhouse } = DEMO_MACHINES
  const rolls = demoFilaments('2026-01-01')
  return {
    tube: { name: 'open frame, tube-fed', machine: shed, roll: rolls.fern },
    direct: {
      name: 'open frame, direct drive',
      machine: { ...greenhouse, frame: 'open' as const, chamber: null },
      roll: rolls.pond,
    },
    enclosed: { name: 'enclosed, direct drive', machine: greenhouse, roll: rolls.slate },
  }
})()

/** A suspect this likely when a case closes counts as named. */
const NAMED_FROM = 0.5

/** Practice: a simulated machine with something hidden in it, a roll, and a case to begin with. */
@Injectable()
export class PracticeService {
  constructor(
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsService,
    private readonly pairsKept: PairsRepository,
    private readonly cases: CasesService,
    private readonly casesKept: CasesRepository,
    private readonly diagnosis: DiagnosisService,
    private readonly links: LinksService,
    private readonly prints: PrintsRepository,
  ) {}

  /** @param id of the machine: asked for again it is there once */
  async start({ id = randomUUID(), hidden, kind }: { id?: string; hidden: number; kind: Kind }) {
    const { name, machine, roll } = KINDS[kind]
    const count = (await this.links.list()).filter((l) => l.practice).length + 1
    const known = await this.machines.repository.find(id)
    if (!known)
      await this.machines.create(id, {
        ...machine,
        name: `Practice ${count}, ${name}`,
        notes: 'Simulated. Something is wrong with it or with its roll: find out what.',
      })
    await this.links.join(id, 'quick', hidden)
    // ids that hang on the machine's: a start that was cut off is taken up again
    const filamentId = sibling(id, 1)
    if (!(await this.filaments.repository.find(filamentId)))
      await this.filaments.create(filamentId, {
        ...roll,
        name: `Practice roll ${count}`,
        maker: 'Practice',
        openedOn: today(),
        measured: [],
        dryings: [],
        notes: 'Simulated.',
      })
    const pair = await this.pairs.open(id, filamentId)
    const caseId = sibling(id, 2)
    await this.cases.create({ id: caseId, pairId: pair.id, part: 'Practice piece' })
    await this.cases.setLearns(caseId, false)
    return { machineId: id, filamentId, pairId: pair.id, caseId }
  }

  /** A copy of a machine that is simulated, to try on. */
  async copy(machineId: string, id: string = randomUUID()) {
    const { body } = await this.machines.repository.get(machineId)
    if (!(await this.machines.repository.find(id)))
      await this.machines.create(id, { ...body, name: `${body.name.slice(0, 66)}, simulated` })
    await this.links.join(id, 'quick', 0)
    return { machineId: id }
  }

  /** Shows the truth of a practice machine, and what of it was found and put right. */
  async reveal(machineId: string): Promise<Revealed> {
    const pairs = (await this.pairsKept.newestFirst()).filter((p) => p.machineId === machineId)
    if (!pairs.length) throw notFound('pair of this machine')
    const pair = await this.pairsKept.whole(pairs[pairs.length - 1])
    const own = new Set(pairs.map((p) => p.id))
    const cases = await this.casesKept.ofPairs([...own])
    const named = new Set<string>()
    const mended = new Set<string>()
    for (const c of cases) {
      for (const s of c.sums?.causes ?? []) {
        mended.add(s)
        named.add(s)
      }
      const { suspects } = await this.diagnosis.ask({ caseId: c.id, signs: {} })
      for (const s of suspects) if (s.probability >= NAMED_FROM) named.add(s.id)
    }
    const before = await this.links.get(machineId)
    const truths = await this.links.reveal(pair)
    const sums = await this.prints.sums(machineId)
    // what was put right is sound by now: what was hidden is counted by the link
    const of = before.practice?.hidden ?? 0
    const says = (id: string, set: ReadonlySet<string>) => NAMED_BY[id]?.some((s) => set.has(s)) ?? false
    const hidden = truths.filter((t) => t.wasBroken)
    return {
      truths,
      score: {
        found: hidden.filter((t) => says(t.id, named)).length,
        mended: hidden.filter((t) => says(t.id, mended) || !t.broken).length,
        of,
        ...sums,
      },
    }
  }
}

/** An id that hangs on another one. */
function sibling(id: string, n: number): string {
  const last = (parseInt(id.slice(-4), 16) + n) % 0x10000
  return id.slice(0, -4) + last.toString(16).padStart(4, '0')
}
