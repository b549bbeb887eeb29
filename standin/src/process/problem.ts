/** What cannot be done, with a sentence for a person. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message)
    this.name = 'Problem'
  }
}
