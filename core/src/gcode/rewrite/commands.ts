import { MoveKind } from '../program'
import type { MachineState, Program } from '../program'
import { K, M, P, R, S, T } from '../reader/words'
import type { LineWords, Spelling, WordAt } from './line'
import type { Commanded, Moves, Overlay } from './overlay'
import type { Patch } from './output'

/** What a command sets, by the word that holds it. */
interface Setting {
  key: Commanded
  /** The tool whose heater is spoken to, where it is not the one at work. */
  tool?: number
  /** −1 where the command says it without a word. */
  word: number
  value: number
}

const numberOf = (w: WordAt | undefined) => (w && w.from < w.to ? w.value : undefined)

/**
 * Keeps a rewritten file's commands as its moves need them: the values of commands that are there are replaced, commands are
 * put in where the file has none, and such are taken out again where they say what holds already.
 */
export class CommandWriter {
  private readonly keys: Commanded[]
  /** What the new file has set so far; a heater of its own tool by that. */
  private readonly out = new Map<string, number | null>()
  /** The last line of a file that never has the fan on: nobody switches it off there but this. */
  private fanEnds = Infinity
  /** The file sets printing and travelling apart. */
  private split = false
  private pressureWord: 'k' | 's'

  constructor(
    private readonly moves: Moves & Pick<Program, 'fanScale' | 'heaterPerTool'>,
    private readonly overlay: Overlay,
    private readonly spelling: Spelling,
  ) {
    this.keys = Object.keys(overlay.states ?? {}) as Commanded[]
    // where one command sets both, what is changed for one has to be set again for the other
    for (const [own, other] of [
      ['printAcceleration', 'travelAcceleration'],
      ['travelAcceleration', 'printAcceleration'],
    ] as const)
      if (this.keys.includes(own) && !this.keys.includes(other)) this.keys.push(other)
    if (this.keys.includes('fan')) {
      this.out.set('fan', 0)
      if (moves.states.every((state) => state.fan === 0)) {
        let i = moves.count - 1
        while (i >= 0 && moves.kind[i] !== MoveKind.Extrude) i--
        this.fanEnds = i
      }
    }
    this.pressureWord = overlay.spell?.pressure ?? 'k'
  }

  get idle(): boolean {
    return this.keys.length === 0
  }

  private toolOf(i: number): number {
    return this.moves.states[this.moves.state[i]].tool
  }

  /** Where it is kept what a command has set. */
  private slot(key: Commanded, tool: number): string {
    return key === 'nozzle' && this.moves.heaterPerTool ? `nozzle ${tool}` : key
  }

  /** What the new file has set for a slot: a tool whose heater was never spoken to has what the one before it had. */
  private held(key: Commanded, slot: string): number | null {
    return this.out.get(slot) ?? this.out.get(key) ?? null
  }

  /** A value as its command has it: the fan in the file's own scale. */
  private inCommand(key: Commanded, value: number): number {
    if (key !== 'fan') return value
    const s = value * this.moves.fanScale
    if (this.moves.fanScale === 1) return Number(s.toFixed(3))
    // a file that says 1 and nothing above it is taken to speak in fractions
    return s < 1.5 ? 0 : Math.round(s)
  }

  private had(key: Commanded, i: number): number | null {
    return this.moves.states[this.moves.state[i]][key]
  }

  private concerns(key: Commanded, i: number): boolean {
    if (key === 'fan' && i > this.fanEnds) return true
    const kind = this.moves.kind[i]
    return key === 'travelAcceleration' ? kind === MoveKind.Travel : kind === MoveKind.Extrude
  }

  /** What a command has to be while move `i` runs; null where it does not matter. */
  private wanted(key: Commanded, i: number): number | null {
    const have = this.had(key, i)
    if (key === 'fan' && i > this.fanEnds) return 0
    const want = this.overlay.states?.[key]?.(i, have) ?? have
    return want === null ? null : this.inCommand(key, want)
  }

  /** What the first move that a command is for needs, from move `i` on; the command's own value where it is for none. */
  private needed(key: Commanded, i: number, value: number, tool: number): number {
    const own = key === 'nozzle' && this.moves.heaterPerTool
    for (let j = i; j < this.moves.count; j++) {
      // another heater than this one
      if (own && this.toolOf(j) !== tool) continue
      const have = this.had(key, j)
      if (have === null || Math.abs(this.inCommand(key, have) - value) > 1e-6) break
      if (this.concerns(key, j)) return this.wanted(key, j) ?? value
    }
    return value
  }

  /** Commands that have to stand before move `i`. */
  before(i: number): string[] {
    const out: string[] = []
    for (const key of this.keys) {
      if (!this.concerns(key, i)) continue
      const want = this.wanted(key, i)
      const slot = this.slot(key, this.toolOf(i))
      const holds = this.held(key, slot)
      if (want !== null) this.out.set(slot, want).set(key, want)
      if (want === null || holds === want) continue
      out.push(this.spell(key, want, i))
    }
    return out
  }

  private spell(key: Commanded, value: number, i: number): string {
    const s = (digits: number) => this.spelling.print(S, value, Math.max(digits, 0))
    switch (key) {
      case 'nozzle': {
        const tool = this.toolOf(i)
        return tool > 0 && this.moves.heaterPerTool ? `M104 T${tool} S${s(0)}` : `M104 S${s(0)}`
      }
      case 'bed':
        return `M140 S${s(0)}`
      case 'fan':
        return value > 0 ? `M106 S${plain(value)}` : 'M107'
      case 'pressure':
        return this.pressureWord === 'k' ? `M900 K${plain(value)}` : `M572 S${plain(value)}`
      default:
        if (!this.split) {
          // one command for both
          this.out.set('printAcceleration', value)
          this.out.set('travelAcceleration', value)
          return `M204 S${s(0)}`
        }
        return key === 'printAcceleration' ? `M204 P${s(0)}` : `M204 T${s(0)}`
    }
  }

  /** What the commands of a line set, of what is rewritten. */
  private settings(
    { words }: LineWords,
    state: Readonly<MachineState>,
  ): { m: number; list: Setting[] } | null {
    const codes = words.filter((w) => w.letter === M)
    if (codes.length !== 1) return null
    const m = codes[0].value
    const word = (letter: number) => words.find((w) => w.letter === letter)
    const one = (key: Commanded, ...letters: number[]): Setting[] => {
      for (const letter of letters) {
        const value = numberOf(word(letter))
        if (value !== undefined) return [{ key, word: letter, value }]
      }
      return []
    }
    switch (m) {
      case 104:
      case 109: {
        const tool = numberOf(word(T))
        const other = tool !== undefined && tool !== state.tool ? tool : undefined
        return { m, list: one('nozzle', S, R).map((s) => ({ ...s, tool: other })) }
      }
      case 140:
      case 190:
        return { m, list: one('bed', S, R) }
      case 106:
      case 107: {
        if ((numberOf(word(P)) ?? 0) !== 0) return null
        if (m === 107) return { m, list: [{ key: 'fan', word: -1, value: 0 }] }
        const list = one('fan', S)
        return { m, list: list.length ? list : [{ key: 'fan', word: -1, value: 255 }] }
      }
      case 204: {
        const both = one('printAcceleration', S)
        if (both.length) return { m, list: [...both, { ...both[0], key: 'travelAcceleration' }] }
        this.split = true
        return { m, list: [...one('printAcceleration', P), ...one('travelAcceleration', T)] }
      }
      case 572:
        this.pressureWord = 's'
        return { m, list: one('pressure', S) }
      case 900:
        this.pressureWord = 'k'
        return { m, list: one('pressure', K) }
      default:
        return null
    }
  }

  /**
   * What becomes of a line of commands.
   * @param next the first move after it
   * @param marked whether an earlier change put the line in
   * @returns patches, empty where it stays; `'gone'` where it was put in and says what holds already
   */
  rewrite(line: LineWords, next: number, state: Readonly<MachineState>, marked: boolean): Patch[] | 'gone' {
    const set = this.settings(line, state)
    if (!set) return []
    const list = set.list.filter((s) => this.keys.includes(s.key))
    if (!list.length) return []
    const patches: Patch[] = []
    let needless = marked
    const shared = set.m === 204 && list.length === 2 && list[0].word === list[1].word
    for (const { key, word, value, tool = state.tool } of list) {
      const want = this.needed(key, next, value, tool)
      const slot = this.slot(key, tool)
      if (this.held(key, slot) !== want || tool !== state.tool) needless = false
      if (shared && key === 'travelAcceleration') {
        // the printing value was written for both; travels get theirs back where they come
        this.out.set(key, this.out.get('printAcceleration') ?? null)
        continue
      }
      this.out.set(slot, want)
      if (tool === state.tool) this.out.set(key, want)
      if (Math.abs(want - value) < 1e-6) continue
      if (word >= 0) {
        const w = line.words.find((q) => q.letter === word)!
        if (key === 'fan' && want === 0) patches.push(...this.replaceAll(line, 'M107'))
        else
          patches.push({
            from: w.from,
            to: w.to,
            text: key === 'pressure' || key === 'fan' ? plain(want) : this.spelling.print(word, want),
          })
      } else
        patches.push(...this.replaceAll(line, this.spell(key, want, Math.min(next, this.moves.count - 1))))
    }
    return needless ? 'gone' : patches
  }

  private replaceAll(line: LineWords, text: string): Patch[] {
    const code = line.words.filter((w) => w.letter !== 13)
    return [{ from: code[0].at, to: line.codeEnd, text: this.spelling.like(text) }]
  }
}

const plain = (v: number) => String(Number(v.toFixed(4)))
