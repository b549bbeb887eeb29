/**
 * Text that somebody typed, as text in a Markdown document: one line, and nothing in it becomes a link, a picture, markup of the
 * page, or the end of a table's cell (GitHub Flavored Markdown 0.29, with its links of bare addresses).
 */
export const plainText = (text: string): string =>
  text
    .replace(/[\r\n]+/g, ' ')
    .replace(/[\\`*_[\]!|~]/g, '\\$&')
    .replace(/&(?=[#\w]+;)/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/:\/\//g, ':\\/\\/')
    .replace(/www\./gi, (w) => `${w.slice(0, 3)}\\.`)
    .replace(/@/g, '\\@')
