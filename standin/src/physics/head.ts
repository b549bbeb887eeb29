import type { Polymer } from '../polymer'
import type { World } from '../world'
import { MeltZone, type Delivered } from './meltZone'

/** The drive, the roll it pulls from and the nozzle it pushes through. */
export class Head {
  readonly zone: MeltZone
  /** mm of filament pushed, and clicks of a drive that slipped. */
  pushed = 0
  slips = 0
  private slipping = 0

  constructor(
    private readonly world: World,
    polymer: Polymer,
    bore: number,
  ) {
    this.zone = new MeltZone(polymer, world, bore)
  }

  /** °C of the nozzle at a time, s: what it is set to, off by its error and swinging. */
  heat(set: number, time: number): number {
    const { offset, swing } = this.world.hotEnd
    return set + offset + swing.amplitude * Math.sin((2 * Math.PI * time) / swing.period)
  }

  /** mm³ that a length of filament really is, here on the roll. */
  private volumeOf(mm: number): number {
    const { roll, drive } = this.world
    const along = this.pushed
    const d = roll.diameter + roll.wander.amplitude * Math.sin((2 * Math.PI * along) / roll.wander.period)
    const gear = 1 + drive.gear.amplitude * Math.sin((2 * Math.PI * along) / drive.gear.period)
    this.pushed += mm
    return mm * drive.steps * gear * (Math.PI / 4) * d * d
  }

  /**
   * Pushes a length, or pulls it back.
   * @param time s into the print
   * @param lead s of pressure compensation; null while the head stands still
   */
  push(mm: number, seconds: number, nozzle: number, time: number, lead: number | null): Delivered {
    const done = this.zone.push(this.volumeOf(mm), seconds, nozzle, time / 60, lead)
    // a slipping gear clicks once for each millimetre it does not push
    this.slipping += done.slipped * Math.max(0, mm)
    if (this.slipping > 1) {
      this.slips += Math.floor(this.slipping)
      this.slipping %= 1
    }
    return done
  }
}
