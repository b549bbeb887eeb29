/** Letters of the words by their place in the alphabet. */
const letterIndex = (c: string) => c.charCodeAt(0) - 65
export const [D, E, F, G, I, J, K, L, M, N, P, R, S, T, X, Y, Z] = [...'DEFGIJKLMNPRSTXYZ'].map(letterIndex)
/** The bit of a letter in {@link Words.have}. */
export const bit = (letter: number) => 1 << letter

/** The words of one line; reused from line to line. */
export class Words {
  /** Value of each letter's word, where {@link have} has its bit. */
  readonly value = new Float64Array(26)
  have = 0
  readonly gCodes: number[] = []
  readonly mCodes: number[] = []
  /** The T word; −1 where there is none. */
  tool = -1
  /** Axes that stand without a number, as in `G28 X`; bits. */
  bareAxes = 0

  has(letter: number): boolean {
    return (this.have & (1 << letter)) !== 0
  }

  clear(): void {
    this.have = 0
    this.gCodes.length = 0
    this.mCodes.length = 0
    this.tool = -1
    this.bareAxes = 0
  }
}
