import { thickness, type Polymer } from '../polymer'
import type { World } from '../world'

/** What came out of the nozzle during a move. */
export interface Delivered {
  /** mm³ */
  volume: number
  /** The drive slipped, as a share of what was asked. */
  slipped: number
  /** °C of the melt. */
  temperature: number
}

/** mm³ over its free volume at which a sound drive begins to slip, for each second of relaxing at the melt's own rate. */
const SLIPS_AT = 1.6
/** °C that a melt is colder than its nozzle when it flows as fast as it can be melted. */
const COLDER_AT_MOST = 28

/**
 * Pressure between drive and nozzle as one spring and one dashpot: what was pushed in and has not come out yet is squeezed
 * volume, and comes out at a rate that is the volume over a time constant (first-order compliance). Hotter melt is thinner
 * and relaxes sooner (Arrhenius). A pull-back takes up the tube's slack first.
 */
export class MeltZone {
  /** mm³ squeezed; below zero is a void that has to fill first. */
  squeezed = 0
  private slack = 0

  constructor(
    private readonly polymer: Polymer,
    private readonly world: World,
    private readonly bore: number,
  ) {}

  /** mm³/s that can be melted at a nozzle's heat: grows by about a hundredth for each degree, falls with wear and creep. */
  meltLimit(nozzle: number, minutes: number): number {
    const { polymer, world } = this
    const { open, creeps, worn } = world.hotEnd
    const own = polymer.melts * ((this.bore + worn) / 0.4) ** 1.15
    const warmer = Math.exp(0.011 * (nozzle - world.roll.hotter - polymer.reference))
    return own * warmer * open ** 1.5 * (1 - creeps * Math.min(1, minutes / 30))
  }

  /** s in which pressure falls by a factor of e. */
  relaxing(nozzle: number): number {
    const { polymer, world } = this
    const thick = thickness(polymer, nozzle - world.roll.hotter)
    return (polymer.relaxes * world.drive.soft * thick) / world.hotEnd.open ** 2
  }

  /**
   * Pushes (or pulls) for a time.
   * @param volume mm³ the drive is asked for
   */
  push(volume: number, seconds: number, nozzle: number, minutes: number): Delivered {
    const { polymer, world } = this
    if (seconds <= 0) {
      this.pull(volume)
      return { volume: 0, slipped: 0, temperature: nozzle }
    }
    let asked = volume
    if (volume < 0) {
      this.pull(volume)
      asked = 0
    } else if (this.slack > 0) {
      const taken = Math.min(this.slack, volume)
      this.slack -= taken
      asked -= taken
    }
    const tau = this.relaxing(nozzle)
    const limit = this.meltLimit(nozzle, minutes)
    // wet plastic foams, and drips without being pushed
    const drool =
      (polymer.drools * (1 + polymer.thirst * world.roll.moisture)) /
      thickness(polymer, nozzle - world.roll.hotter)
    const before = this.squeezed
    const rate = asked / seconds
    // v' = rate − v/τ
    const settled = rate * tau
    let after = settled + (before - settled) * Math.exp(-seconds / tau)
    let out = asked - (after - before)
    if (before <= 0 && volume <= 0) {
      after = before
      out = 0
    }
    out = Math.max(0, out)
    // no more than can be melted
    const most = limit * seconds
    if (out > most) {
      after += out - most
      out = most
    }
    const full = SLIPS_AT * world.drive.grip * limit * Math.max(tau, 0.05)
    let slipped = 0
    if (after > full) {
      slipped = asked > 0 ? Math.min(1, (after - full) / asked) : 0
      after = full
    }
    if (after > -0.01) {
      const drip = drool * seconds * (after > 0 ? 1 : 0.4)
      out += drip
      after -= drip
    }
    this.squeezed = after
    const load = Math.min(1.2, out / seconds / Math.max(1e-6, limit))
    return { volume: out, slipped, temperature: nozzle - COLDER_AT_MOST * load * load }
  }

  private pull(volume: number): void {
    const room = world3(this.world) - this.slack
    if (volume >= 0) return
    const first = Math.min(room, -volume)
    this.slack += first
    this.squeezed += volume + first
  }
}

/** mm³ that the slack of a tube holds. */
const world3 = ({ drive, roll }: World): number => drive.slack * (Math.PI / 4) * roll.diameter ** 2
