declare module 'gcode-parser' {
  /** Reads all lines of a program into words; the package has no types of its own. */
  export function parseStringSync(text: string): { line: string; words: [string, number][] }[]
}
