/** A sentence for each code of a room, made from the code's values. */
export type Sentences<Codes> = { [C in keyof Codes]: (values: Codes[C]) => string }
/** For codes that are shown as two sentences: what is so, and why it matters. */
export type Statements<Codes> = {
  [C in keyof Codes]: { text: (values: Codes[C]) => string; why: (values: Codes[C]) => string }
}

/** A sentence without values. */
export const plain = (text: string) => () => text
