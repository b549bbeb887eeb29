/** What a part may be called after its file: without the ending, with spaces. */
export const partNameOf = (fileName: string): string =>
  fileName
    .replace(/\.[a-z0-9]{1,5}$/i, '')
    .replace(/[-_]+/g, ' ')
    .trim()
    .slice(0, 80)
