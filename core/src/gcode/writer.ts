import { beadArea, filamentArea } from '../extrusion/bead'
import { commandsOf, type Commands } from '../machine/commands'
import type { Machine } from '../machine/machine'
import type { NumericPrintSetting, PrintSettings } from './printSettings'

const POWERS = [1, 10, 100, 1e3, 1e4, 1e5, 1e6]
/** Thousandths as words, with zeros at their end and without. */
const WHOLE = Array.from({ length: 1000 }, (_, i) => String(i).padStart(3, '0'))
const TRIMMED = WHOLE.map((w) => w.replace(/0+$/, ''))

/**
 * A number with at most so many decimals, without zeros at its end. Files are mostly numbers: whole ones become words several
 * times as fast as broken ones do.
 */
function f(v: number, digits = 3): string {
  const scaled = Math.round(v * POWERS[digits])
  if (!Number.isSafeInteger(scaled)) return String(v)
  const size = Math.abs(scaled)
  const whole = Math.floor(size / POWERS[digits])
  const rest = size - whole * POWERS[digits]
  const sign = scaled < 0 ? '-' : ''
  if (rest === 0) return `${sign}${whole}`
  // in thousandths, and what is finer
  const fine = digits > 3 ? POWERS[digits - 3] : 1
  const thousandths = digits > 3 ? Math.floor(rest / fine) : rest * POWERS[3 - digits]
  const left = digits > 3 ? rest - thousandths * fine : 0
  if (left === 0) return `${sign}${whole}.${TRIMMED[thousandths]}`
  return `${sign}${whole}.${WHOLE[thousandths]}${TRIMMED[left * POWERS[6 - digits]]}`
}

/** Heat at which a nozzle is soft enough to be level with and does not run yet, °C. Common practice, no source. */
const STANDBY = 150
/** Height the head goes to before the first sideways move, mm. */
const CLEAR = 5

/** Fan duty of 255 steps. */
const dutyOf = (percent: number) => Math.round((Math.min(100, Math.max(0, percent)) / 100) * 255)

/**
 * Writes plain G-code for a pair: heat-up, lines of a given width, travels with or without a pull-back, soft
 * end. Speeds, heats and places are held within the machine's limits; a place outside the bed is an error.
 * Absolute millimetres; feed, fan, acceleration, corners and pressure compensation as the machine's commands spell
 * them. The z offset raises or lowers everything.
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
  /** mm/s² that lines run at now. */
  private pace = NaN
  private fed = 0
  private fedExact = 0
  private readonly commands: Commands
  private readonly settings: PrintSettings

  /**
   * @param settings copied: later changes go through {@link use}
   * @param remarks whether each command of the head says what it is for
   */
  constructor(
    private readonly machine: Machine,
    settings: PrintSettings,
    private readonly remarks = false,
  ) {
    this.settings = { ...settings }
    this.area = filamentArea(settings.diameter)
    this.commands = commandsOf(machine)
  }

  /** Goes on with other settings; what the controller has to be told is told. */
  use(settings: Partial<PrintSettings>): void {
    const last = { ...this.settings }
    Object.assign(this.settings, settings)
    const changed = (key: keyof PrintSettings) => key in settings && settings[key] !== last[key]
    if (changed('zOffset')) this.shifted = true
    if (changed('nozzle')) this.nozzle(this.settings.nozzle)
    if (changed('travelAcceleration')) this.tellPace()
    if (changed('pressureCompensation')) this.pressure(this.settings.pressureCompensation)
  }

  /** A setting as it is now. */
  value(key: NumericPrintSetting): number {
    return this.settings[key]
  }

  private put(command: string, remark: string): void {
    this.out.push(this.remarks ? `${command.padEnd(24)} ; ${remark}` : command)
  }

  private pressure(k: number): void {
    if (this.commands.pressure !== 'none')
      this.put(
        this.commands.pressure === 'k' ? `M900 K${f(k, 4)}` : `M572 S${f(k, 4)}`,
        'pressure compensation, s (0: off)',
      )
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
    const { limits } = this.machine
    const { settings, commands } = this
    this.note(`Verimend ${title}`)
    this.note(
      `Held within the machine: nozzle ${limits.nozzle} C, bed ${limits.bed} C, ${limits.speed} mm/s, ${limits.acceleration} mm/s2`,
    )
    const bed = f(Math.min(limits.bed, settings.bedFirst), 0)
    const nozzle = f(Math.min(limits.nozzle, settings.nozzleFirst), 0)
    this.put('G21', 'millimetres')
    this.put('G90', 'absolute places')
    if (commands.feed === 'absolute') this.put('M82', 'absolute feed')
    else this.put('M83', 'relative feed')
    this.put('M107', `fan off for ${settings.fanOffLayers} layers`)
    const standby = Math.min(STANDBY, Number(nozzle))
    this.put(`M140 S${bed}`, 'bed, first layer')
    this.put(`M104 S${f(standby, 0)}`, 'nozzle, warm but not running')
    this.put(`M190 S${bed}`, 'wait for the bed: home and level on it hot')
    this.put('G28', 'home')
    if (commands.level === 'probe') this.put('G29', 'probe the bed')
    else if (commands.level === 'kept') this.put('M420 S1', 'follow the kept grid of the bed')
    this.z = Math.min(CLEAR, this.machine.height)
    this.put(`G0 Z${f(this.z)} F${this.feedrate(limits.zSpeed)}`, 'clear of the bed')
    this.put(`M109 S${nozzle}`, 'nozzle, first layer')
    this.put('G92 E0', 'feed counts from here')
    this.acceleration(settings.outerAcceleration)
    this.corner()
    if (settings.pressureCompensation > 0) this.pressure(settings.pressureCompensation)
  }

  /** Notes what the second layer is set to, without setting it: the head of a file ends before that. */
  remarkOnRest(): void {
    const { limits, fan } = this.machine
    const { settings } = this
    this.note(`  M104 S${f(Math.min(limits.nozzle, settings.nozzle), 0)}   nozzle`)
    this.note(`  M140 S${f(Math.min(limits.bed, settings.bed), 0)}   bed`)
    if (fan.present)
      this.note(
        `  M106 S${this.fanWord(settings.fan)}   fan ${f(settings.fan)} % from layer ${settings.fanOffLayers + 1}`,
      )
  }

  private corner(): void {
    const rule = this.machine.limits.corner
    if (this.commands.corner === 'change') {
      const most = rule.kind === 'instant-change' ? rule.limit : Infinity
      const v = f(Math.min(this.settings.cornerChange, most), 1)
      this.put(`M205 X${v} Y${v}`, 'corner change, mm/s')
    } else if (this.commands.corner === 'deviation') {
      const most = rule.kind === 'junction-deviation' ? rule.deviation : Infinity
      this.put(`M205 J${f(Math.min(this.settings.junctionDeviation, most), 4)}`, 'junction deviation, mm')
    }
  }

  /** What lines run at from here on, mm/s²; told where it changes. */
  acceleration(value: number): void {
    if (value === this.pace) return
    this.pace = value
    this.tellPace()
  }

  private tellPace(): void {
    const { limits } = this.machine
    const print = Math.min(this.pace, limits.acceleration)
    const travel = Math.min(this.settings.travelAcceleration, limits.travelAcceleration)
    if (this.commands.acceleration === 'split')
      this.put(`M204 P${f(print, 0)} T${f(travel, 0)}`, 'acceleration: printing, travel')
    else if (this.commands.acceleration === 'single')
      this.put(`M204 S${f(Math.min(print, limits.travelAcceleration), 0)}`, 'acceleration')
  }

  nozzle(value: number): void {
    this.out.push(`M104 S${f(Math.min(this.machine.limits.nozzle, value), 0)}`)
  }

  bed(value: number): void {
    this.out.push(`M140 S${f(Math.min(this.machine.limits.bed, value), 0)}`)
  }

  /** Fan duty in %. */
  setFan(percent: number): void {
    const duty = this.machine.fan.present ? dutyOf(percent) : 0
    if (duty === this.fan) return
    this.fan = duty
    this.out.push(duty ? `M106 S${this.fanWord(percent)}` : 'M107')
  }

  /** A fan duty as the controller spells it. */
  private fanWord(percent: number): string {
    const duty = dutyOf(percent)
    return this.commands.fan === 'fraction' ? f(duty / 255, 3) : String(duty)
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

  /** Moves without feeding. Pulls back first when the settings ask for it and the way is long enough. */
  travel(x: number, y: number, z = this.z): void {
    this.check(x, y, z)
    const way = Math.hypot(x - this.x, y - this.y)
    if (way > this.settings.minTravel) this.retract()
    const lift = this.retracted > 0 && way > 1e-6 ? this.settings.zLift : 0
    if (lift > 0) this.raise(Math.min(this.machine.height, Math.max(this.z, z) + lift))
    if (z > this.z && !lift) this.raise(z) // up before, down after: never through what stands there
    if (way > 1e-6) {
      this.out.push(`G0 X${f(x)} Y${f(y)} F${this.feedrate(this.settings.travelSpeed)}`)
      this.x = x
      this.y = y
    }
    if (this.z !== z || this.shifted) this.raise(z)
  }

  /** Goes straight up, pulled back, to a height within the machine. */
  lift(z: number): void {
    this.retract()
    this.raise(Math.min(this.machine.height, Math.max(this.z, z)))
  }

  private raise(z: number): void {
    this.out.push(
      `G0 Z${f(Math.max(0.01, z + this.settings.zOffset))} F${this.feedrate(Math.min(this.machine.limits.zSpeed, this.settings.travelSpeed))}`,
    )
    this.z = z
    this.shifted = false
  }

  private retract(): void {
    if (!this.settings.retract || this.retracted > 0) return
    const length = this.settings.retractLength
    if (!(length > 0)) return
    this.out.push(`G1 E${this.feed(-length, 4)} F${this.feedrate(this.settings.retractSpeed)}`)
    this.retracted = length
  }

  private restart(): void {
    if (!this.retracted) return
    const extra = Math.max(-this.retracted, this.settings.restartExtra)
    this.out.push(`G1 E${this.feed(this.retracted + extra, 4)} F${this.feedrate(this.settings.retractSpeed)}`)
    this.retracted = 0
  }

  /**
   * Lays a line to a place. Width and height in mm, speed in mm/s, flow as a share.
   * @param z where the line rises, what it rises to, mm
   */
  line(x: number, y: number, width: number, height: number, speed: number, flow: number, z = this.z): void {
    this.check(x, y, z)
    this.restart()
    const way = Math.hypot(x - this.x, y - this.y)
    if (way < 1e-6) return
    const e = (beadArea(width, height) * flow * way) / this.area
    const up = z === this.z ? '' : ` Z${f(Math.max(0.01, z + this.settings.zOffset))}`
    this.out.push(`G1 X${f(x)} Y${f(y)}${up} E${this.feed(e, 5)} F${this.feedrate(speed)}`)
    this.x = x
    this.y = y
    this.z = z
  }

  /** Feeds so many mm³ on the spot, at so many mm³/s. */
  purge(volume: number, rate: number): void {
    this.restart()
    const speed = Math.min(this.machine.limits.speed, rate / this.area)
    this.out.push(`G1 E${this.feed(volume / this.area, 4)} F${f(speed * 60, 1)}`)
  }

  /** Waits until the nozzle has the heat it was last given. */
  settle(): void {
    this.out.push(`M109 S${f(Math.min(this.machine.limits.nozzle, this.settings.nozzle), 0)}`)
  }

  /**
   * Lays a closed loop from its first point, with an early stop and a wipe.
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
    const up = Math.min(this.machine.height, Math.max(0.01, this.z + this.settings.zOffset) + 10)
    this.out.push(`G0 Z${f(up)} F${this.feedrate(this.machine.limits.zSpeed)}`)
    const { bed } = this.machine
    const park = bed.shape === 'round' ? { x: 0, y: bed.depth / 2 - 5 } : { x: 2, y: bed.depth - 2 }
    this.out.push(`G0 X${f(park.x)} Y${f(park.y)} F${this.feedrate(this.settings.travelSpeed)}`)
    this.out.push('M107', 'M104 S0', 'M140 S0', 'M84')
  }

  text(): string {
    return this.out.join('\n') + '\n'
  }
}
