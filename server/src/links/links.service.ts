import { Inject, Injectable } from '@nestjs/common'
import { observation, truth, type MachineLink, type PaceName } from '@verimend/contract'
import { DONE_BY } from '@verimend/core/casework'
import type { CheckId, ProcedureId } from '@verimend/core/knowledge'
import type { Machine } from '@verimend/core/machine'
import { z } from 'zod'
import { CONFIG, type Config } from '../config'
import { LinkRow } from '../database/models'
import type { KeptPair } from '../pairs/pairs.repository'
import { notFound, ProblemException, refused } from '../problem/problem'
import type { Device } from './device'
import { DownloadDevice } from './download.device'
import { StandinDevice, type Roll } from './standin.device'

/** What each pace is to a simulated machine. */
const PACE: Record<PaceName, object> = {
  real: { times: 1 },
  tenfold: { times: 10 },
  hundredfold: { times: 100 },
  quick: { within: 8 },
  quickest: { within: 2 },
}

/** Which machines are simulated, and how each machine is reached. */
@Injectable()
export class LinksService {
  readonly standin: StandinDevice
  private readonly download = new DownloadDevice()
  /** Whether the simulated machines answer. */
  reachable = false

  constructor(@Inject(CONFIG) config: Config) {
    this.standin = new StandinDevice(config.standin)
  }

  find(machineId: string): Promise<LinkRow | null> {
    return LinkRow.findByPk(machineId)
  }
  async get(machineId: string): Promise<LinkRow> {
    const row = await this.find(machineId)
    if (!row) throw notFound('simulated machine')
    return row
  }
  async list(): Promise<MachineLink[]> {
    return (await LinkRow.findAll()).map((row) => this.view(row))
  }
  view({ machineId, pace, practice }: LinkRow): MachineLink {
    return { machineId, pace, practice, reachable: this.reachable }
  }

  /** How things go to a machine. */
  device(link: 'standin' | 'download'): Device {
    return link === 'standin' ? this.standin : this.download
  }

  /** Makes a machine a simulated one; it is told of it when something is first sent. What is hidden is drawn over there. */
  async join(machineId: string, pace: PaceName, hidden: number): Promise<MachineLink> {
    const [row] = await LinkRow.findOrCreate({
      where: { machineId },
      defaults: {
        machineId,
        pace,
        practice: hidden ? { hidden, startedAt: new Date().toISOString(), revealedAt: null } : null,
      },
    })
    return this.view(row)
  }

  private async tellMachine(id: string, machine: Machine, pace: PaceName, hidden: number, seed: number) {
    await this.standin.put(id, { name: machine.name, machine, seed, hidden, pace: PACE[pace] })
  }

  /** Before something is sent: a simulated machine is told what its machine is like now. */
  async refresh(machineId: string, machine: Machine): Promise<void> {
    const row = await this.get(machineId)
    await this.tellMachine(machineId, machine, row.pace, row.practice?.hidden ?? 0, seedOf(machineId))
  }

  async setPace(machineId: string, pace: PaceName): Promise<MachineLink> {
    const row = await this.get(machineId)
    // one it was never told of learns its pace when something is first sent
    await this.standin.setPace(machineId, PACE[pace]).catch((error: unknown) => {
      if (!(error instanceof ProblemException && error.problem.code === 'no-such-machine')) throw error
    })
    row.pace = pace
    await row.save()
    return this.view(row)
  }

  /** What was done by hand is done on a simulated machine too; on a real one there is nothing to do. */
  async handled(pair: KeptPair, procedures: readonly ProcedureId[]): Promise<void> {
    if (!this.standin.configured || !(await this.find(pair.machineRow.id))) return
    await this.refresh(pair.machineRow.id, pair.machine)
    for (const p of procedures)
      for (const what of DONE_BY[p] ?? []) await this.standin.handle(pair.machineRow.id, what, rollOf(pair))
  }

  /** What somebody notes who makes a check on a simulated machine. */
  async observe(pair: KeptPair, check: CheckId, visit: number) {
    await this.get(pair.machineRow.id)
    await this.refresh(pair.machineRow.id, pair.machine)
    return observation.parse(await this.standin.observe(pair.machineRow.id, rollOf(pair), check, visit))
  }

  /** The bed as its probe touches it. */
  async bed(pair: KeptPair) {
    await this.get(pair.machineRow.id)
    await this.refresh(pair.machineRow.id, pair.machine)
    return z
      .object({
        columns: z.number(),
        rows: z.number(),
        points: z.array(z.object({ x: z.number(), y: z.number(), z: z.number() })),
      })
      .parse(await this.standin.bed(pair.machineRow.id, rollOf(pair)))
  }

  /** The truth about a practice machine; from then on it is known. */
  async reveal(pair: KeptPair) {
    const row = await this.get(pair.machineRow.id)
    if (!row.practice) throw refused('no-practice', 'Nothing was hidden in this machine on purpose.')
    const truths = z.array(truth).parse(await this.standin.truth(row.machineId, rollOf(pair)))
    row.practice = { ...row.practice, revealedAt: row.practice.revealedAt ?? new Date().toISOString() }
    await row.save()
    return truths
  }
}

/** The roll as a simulated machine is told of it. */
export const rollOf = ({ filamentRow, filament }: KeptPair): Roll & { colour?: string } => ({
  id: filamentRow.id,
  family: filament.family,
  ...(/^#[0-9a-f]{6}$/i.test(filament.colour) && { colour: filament.colour }),
})

/** A seed that hangs on an id alone. */
export function seedOf(id: string): number {
  let h = 2166136261
  for (const c of id) h = Math.imul(h ^ c.charCodeAt(0), 16777619)
  return (h >>> 0) % 2 ** 31
}
