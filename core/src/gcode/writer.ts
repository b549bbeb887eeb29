import { beadArea, filamentArea } from '../extrusion/bead'
import { commandsOf, type Commands, type Machine } from '../materials/machine'
import { plainValues, type RecipeValues } from '../recipe/derive'
import type { SettingKey, SettingValue } from '../recipe/settings'

const f = (v: number, digits = 3) => {
  const k = 10 ** digits
  return String(Math.round(v * k) / k + 0) // + 0: no minus before a zero
}

/**
 * Writes plain G-code for a pair: heat-up, lines of a given width, travels with or without a pull-back, soft
 * end. Speeds, heats and places are held within the machine's limits; a place outside the bed is an error.
 * Absolute millimetres; feed, fan, acceleration, corners and pressure compensation as the machine's commands spell
 * them. The recipe's z offset raises or lowers everything.
 */
export class GcodeWriter {
  private readonly out: string[] = []
  private readonly area: number
  private x = 0
  private y = 0
  private z = 0
  private retracted = 0
  private fan = -1
  private shifted = false
  private fed = 0
  private fedExact = 0
  private readonly commands: Commands
  private readonly n: (key: SettingKey) => number
  private readonly values: ReturnType<typeof plainValues>

  constructor(
    private readonly machine: Machine,
    recipe: RecipeValues,
  ) {
    this.values = plainValues(recipe)
    this.n = (key) => Number(this.values[key])
    this.area = filamentArea(this.n('diameter'))
    this.commands = commandsOf(machine)
  }

  /** Goes on with other values than the recipe's; what the controller has to be told is told. */
  use(values: Partial<Record<SettingKey, SettingValue>>): void {
    const last = { ...this.values }
    Object.assign(this.values, values)
    const changed = (key: SettingKey) => key in values && values[key] !== last[key]
    if (changed('zOffset')) this.shifted = true
    if (changed('nozzle')) this.nozzle(this.n('nozzle'))
    if (changed('outerAcceleration')) this.acceleration(this.n('outerAcceleration'))
    if (changed('pressureCompensation')) this.pressure(this.n('pressureCompensation'))
  }

  /** A value as it is now. */
  value(key: SettingKey): number {
    return this.n(key)
  }

  private pressure(k: number): void {
    if (this.commands.pressure !== 'none')
      this.out.push(this.commands.pressure === 'k' ? `M900 K${f(k, 4)}` : `M572 S${f(k, 4)}`)
  }

  /** E word for so many mm more. What rounding leaves over goes into the next one, so that nothing adds up. */
  private feed(mm: number, digits: number): string {
    this.fedExact += mm
    const want = this.commands.feed === 'absolute' ? this.fedExact : this.fedExact - this.fed
    const word = f(want, digits)
    this.fed = this.commands.feed === 'absolute' ? Number(word) : this.fed + Number(word)
    return word
  }

  /** Middle of the bed, mm. */
  get centre(): { x: number; y: number } {
    const { bed } = this.machine
    return bed.shape === 'round' ? { x: 0, y: 0 } : { x: bed.width / 2, y: bed.depth / 2 }
  }

  note(text: string): void {
    this.out.push(`; ${text.replace(/[\r\n]+/g, ' ')}`)
  }

  /** Heats up, homes and sets modes. */
  begin(title: string): void {
    this.note(`Verimend ${title}`)
    this.note(
      `Held within the machine: nozzle ${this.machine.limits.nozzle} C, bed ${this.machine.limits.bed} C, ${this.machine.limits.speed} mm/s, ${this.machine.limits.acceleration} mm/s2`,
    )
    const { limits } = this.machine
    this.out.push('G21', 'G90', this.commands.feed === 'absolute' ? 'M82' : 'M83', 'M107')
    this.out.push(`M140 S${f(Math.min(limits.bed, this.n('bedFirst')), 0)}`)
    this.out.push(`M104 S${f(Math.min(limits.nozzle, this.n('nozzleFirst')), 0)}`)
    this.out.push('G28')
    if (this.commands.level !== 'none') this.out.push(this.commands.level === 'probe' ? 'G29' : 'M420 S1')
    this.out.push(`M190 S${f(Math.min(limits.bed, this.n('bedFirst')), 0)}`)
    this.out.push(`M109 S${f(Math.min(limits.nozzle, this.n('nozzleFirst')), 0)}`)
    this.out.push('G92 E0')
    this.acceleration(this.n('outerAcceleration'))
    this.corner()
    if (this.n('pressureCompensation') > 0) this.pressure(this.n('pressureCompensation'))
  }

  private corner(): void {
    if (this.commands.corner === 'change') {
      const v = f(this.n('cornerChange'), 1)
      this.out.push(`M205 X${v} Y${v}`)
    } else if (this.commands.corner === 'deviation')
      this.out.push(`M205 J${f(this.n('junctionDeviation'), 4)}`)
  }

  acceleration(value: number): void {
    const { limits } = this.machine
    const print = Math.min(value, limits.acceleration)
    const travel = Math.min(this.n('travelAcceleration'), limits.travelAcceleration)
    if (this.commands.acceleration === 'split') this.out.push(`M204 P${f(print, 0)} T${f(travel, 0)}`)
    else if (this.commands.acceleration === 'single')
      this.out.push(`M204 S${f(Math.min(print, limits.travelAcceleration), 0)}`)
  }

  nozzle(value: number): void {
    this.out.push(`M104 S${f(Math.min(this.machine.limits.nozzle, value), 0)}`)
  }

  bed(value: number): void {
    this.out.push(`M140 S${f(Math.min(this.machine.limits.bed, value), 0)}`)
  }

  /** Fan duty in %. */
  setFan(percent: number): void {
    const duty = this.machine.fan.present ? Math.round((Math.min(100, Math.max(0, percent)) / 100) * 255) : 0
    if (duty === this.fan) return
    this.fan = duty
    this.out.push(duty ? `M106 S${this.commands.fan === 'fraction' ? f(duty / 255, 3) : duty}` : 'M107')
  }

  private feedrate(speed: number): string {
    return f(Math.max(0.1, Math.min(speed, this.machine.limits.speed)) * 60, 0)
  }

  private check(x: number, y: number, z: number): void {
    const { bed, height } = this.machine
    const outside =
      bed.shape === 'round'
        ? Math.hypot(x, y) > bed.width / 2 + 1e-6
        : x < -1e-6 || y < -1e-6 || x > bed.width + 1e-6 || y > bed.depth + 1e-6
    if (outside || z > height || z < 0)
      throw new RangeError(`a move to ${f(x)}, ${f(y)}, ${f(z)} leaves the machine`)
  }

  /** Moves without feeding. Pulls back first when the recipe asks for it and the way is long enough. */
  travel(x: number, y: number, z = this.z): void {
    this.check(x, y, z)
    const way = Math.hypot(x - this.x, y - this.y)
    if (way > this.n('minTravel')) this.retract()
    const lift = this.retracted > 0 && way > 1e-6 ? this.n('zLift') : 0
    if (lift > 0) this.raise(Math.min(this.machine.height, Math.max(this.z, z) + lift))
    if (z > this.z && !lift) this.raise(z) // up before, down after: never through what stands there
    if (way > 1e-6) {
      this.out.push(`G0 X${f(x)} Y${f(y)} F${this.feedrate(this.n('travelSpeed'))}`)
      this.x = x
      this.y = y
    }
    if (this.z !== z || this.shifted) this.raise(z)
  }

  private raise(z: number): void {
    this.out.push(
      `G0 Z${f(Math.max(0.01, z + this.n('zOffset')))} F${this.feedrate(Math.min(this.machine.limits.zSpeed, this.n('travelSpeed')))}`,
    )
    this.z = z
    this.shifted = false
  }

  private retract(): void {
    if (this.values.retract !== true || this.retracted > 0) return
    const length = this.n('retractLength')
    if (!(length > 0)) return
    this.out.push(`G1 E${this.feed(-length, 4)} F${this.feedrate(this.n('retractSpeed'))}`)
    this.retracted = length
  }

  private restart(): void {
    if (!this.retracted) return
    const extra = Math.max(-this.retracted, this.n('restartExtra'))
    this.out.push(`G1 E${this.feed(this.retracted + extra, 4)} F${this.feedrate(this.n('retractSpeed'))}`)
    this.retracted = 0
  }

  /** Lays a line to a place. Width and height in mm, speed in mm/s, flow as a share. */
  line(x: number, y: number, width: number, height: number, speed: number, flow: number): void {
    this.check(x, y, this.z)
    this.restart()
    const way = Math.hypot(x - this.x, y - this.y)
    if (way < 1e-6) return
    const e = (beadArea(width, height) * flow * way) / this.area
    this.out.push(`G1 X${f(x)} Y${f(y)} E${this.feed(e, 5)} F${this.feedrate(speed)}`)
    this.x = x
    this.y = y
  }

  /** Feeds so many mm³ on the spot, at so many mm³/s. */
  purge(volume: number, rate: number): void {
    this.restart()
    const speed = Math.min(this.machine.limits.speed, rate / this.area)
    this.out.push(`G1 E${this.feed(volume / this.area, 4)} F${f(speed * 60, 1)}`)
  }

  /** Waits until the nozzle has the heat it was last given. */
  settle(): void {
    this.out.push(`M109 S${f(Math.min(this.machine.limits.nozzle, this.n('nozzle')), 0)}`)
  }

  /**
   * Lays a closed loop from its first point, with the recipe's early stop and wipe.
   * @param points corners in order, mm; the loop returns to the first one
   */
  loop(
    points: readonly (readonly [number, number])[],
    z: number,
    width: number,
    height: number,
    speed: number,
    flow: number,
    end: { early: number; wipe: number } = { early: 0, wipe: 0 },
  ): void {
    this.travel(points[0][0], points[0][1], z)
    const early = end.early / Math.max(1e-6, beadArea(width, height) * flow)
    for (let k = 1; k <= points.length; k++) {
      const [x, y] = points[k % points.length]
      const way = Math.hypot(x - this.x, y - this.y)
      if (k === points.length && early > 0 && way > early + 0.05) {
        const t = (way - early) / way
        this.line(this.x + (x - this.x) * t, this.y + (y - this.y) * t, width, height, speed, flow)
        this.glide(x, y, speed)
      } else this.line(x, y, width, height, speed, flow)
    }
    let left = end.wipe
    for (let k = 1; left > 1e-3 && k <= points.length; k++) {
      const [x, y] = points[k % points.length]
      const way = Math.hypot(x - this.x, y - this.y)
      const t = Math.min(1, left / Math.max(1e-9, way))
      this.glide(this.x + (x - this.x) * t, this.y + (y - this.y) * t, speed)
      left -= way * t
    }
  }

  /** Gets to the start of the next line: joined to the last one when it is near, else by a travel. */
  reach(
    to: readonly [number, number],
    z: number,
    near: number,
    width: number,
    height: number,
    speed: number,
    flow: number,
  ): void {
    const way = Math.hypot(to[0] - this.x, to[1] - this.y)
    if (this.z === z && this.retracted === 0 && this.lastWasLine && way <= near)
      this.line(to[0], to[1], width, height, speed, flow)
    else this.travel(to[0], to[1], z)
  }

  private get lastWasLine(): boolean {
    return / E[\d.]/.test(this.out[this.out.length - 1])
  }

  /** Goes on at printing speed without feeding. */
  private glide(x: number, y: number, speed: number): void {
    this.check(x, y, this.z)
    this.out.push(`G0 X${f(x)} Y${f(y)} F${this.feedrate(speed)}`)
    this.x = x
    this.y = y
  }

  /** Stands still. */
  dwell(seconds: number): void {
    this.out.push(`G4 P${f(seconds * 1000, 0)}`)
  }

  /** Cools, parks beside the part, motors off. */
  end(): void {
    this.retract()
    const up = Math.min(this.machine.height, Math.max(0.01, this.z + this.n('zOffset')) + 10)
    this.out.push(`G0 Z${f(up)} F${this.feedrate(this.machine.limits.zSpeed)}`)
    const { bed } = this.machine
    const park = bed.shape === 'round' ? { x: 0, y: bed.depth / 2 - 5 } : { x: 2, y: bed.depth - 2 }
    this.out.push(`G0 X${f(park.x)} Y${f(park.y)} F${this.feedrate(this.n('travelSpeed'))}`)
    this.out.push('M107', 'M104 S0', 'M140 S0', 'M84')
  }

  text(): string {
    return this.out.join('\n') + '\n'
  }
}
