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
/** A wider bore drips, and lets pressure out, by this power of its width: of a thinning melt it is less than Poiseuille's fourth. */
const BY_BORE = 3

/** Share of its drip that a dry nozzle keeps after a pull-back. From memory. */
const KEPT_BACK = 0.12
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
  /** mm³/s of the move before, for the pressure compensation. */
  private rateBefore = 0

  constructor(
    private readonly polymer: Polymer,
    private readonly world: World,
    private readonly bore: number,
  ) {}

  /** Width of the bore against the one it says. */
  private get wider(): number {
    return 1 + this.world.hotEnd.worn / this.bore
  }

  /** What depends on the nozzle's heat alone, which seldom changes from one move to the next. */
  private atHeat = { nozzle: NaN, thickness: 0, warmer: 0 }
  private at(nozzle: number) {
    if (this.atHeat.nozzle === nozzle) return this.atHeat
    const real = nozzle - this.world.roll.hotter
    const warmer = Math.exp(0.011 * (real - this.polymer.reference))
    return (this.atHeat = { nozzle, thickness: thickness(this.polymer, real), warmer })
  }

  /** mm³/s that can be melted at a nozzle's heat: grows by about a hundredth for each degree, falls with wear and creep. */
  meltLimit(nozzle: number, minutes: number): number {
    const { open, creeps, worn } = this.world.hotEnd
    const own = this.polymer.melts * ((this.bore + worn) / 0.4) ** 1.15
    return own * this.at(nozzle).warmer * open ** 1.5 * (1 - creeps * Math.min(1, minutes / 30))
  }

  /** mm³/s that drip without being pushed: wet plastic foams, and drips more. */
  drools(nozzle: number): number {
    const { polymer, world } = this
    const foams = 1 + polymer.thirst * world.roll.moisture
    return (polymer.drools * foams * this.wider ** BY_BORE) / this.at(nozzle).thickness
  }

  /** s in which pressure falls by a factor of e. */
  relaxing(nozzle: number): number {
    const { polymer, world } = this
    const thick = this.at(nozzle).thickness
    return (polymer.relaxes * world.drive.soft * thick) / (world.hotEnd.open ** 2 * this.wider ** BY_BORE)
  }

  /**
   * Pushes (or pulls) for a time.
   * @param volume mm³ the drive is asked for
   * @param lead s of flow that the machine's pressure compensation pushes ahead when the rate rises, and takes back when it
   * falls; null while the head stands still, when it does neither
   */
  push(
    volume: number,
    seconds: number,
    nozzle: number,
    minutes: number,
    lead: number | null = null,
  ): Delivered {
    const { world } = this
    if (lead !== null && seconds > 0) {
      const rate = volume / seconds
      this.squeezed += lead * (rate - this.rateBefore)
      this.rateBefore = rate
    }
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
    const drool = this.drools(nozzle)
    // a void has to fill before anything comes out, and nothing flows back into it
    const before = this.squeezed
    const filling = before < 0 ? Math.min(asked, -before) : 0
    const left = asked > 0 ? seconds * (1 - filling / asked) : before < 0 ? 0 : seconds
    const rate = asked / seconds
    const begins = before + filling
    // v' = rate − v/τ
    let after = left > 0 ? rate * tau + (begins - rate * tau) * Math.exp(-left / tau) : begins
    let out = left > 0 ? Math.max(0, asked - filling - (after - begins)) : 0
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
    // a void keeps dry plastic back, foam comes out all the same
    const drip = drool * seconds * (after > 0 ? 1 : KEPT_BACK + (1 - KEPT_BACK) * world.roll.moisture)
    out += drip
    after -= drip
    this.squeezed = after
    const load = Math.min(1.2, out / seconds / Math.max(1e-6, limit))
    return { volume: out, slipped, temperature: nozzle - COLDER_AT_MOST * load * load }
  }

  /** Takes up the slack first, then what is squeezed. */
  private pull(volume: number): void {
    if (volume >= 0) return
    const room = slackVolume(this.world) - this.slack
    const first = Math.min(room, -volume)
    this.slack += first
    this.squeezed += volume + first
  }
}

/** mm³ that the slack of a tube holds. */
const slackVolume = ({ drive, roll }: World): number => drive.slack * (Math.PI / 4) * roll.diameter ** 2
