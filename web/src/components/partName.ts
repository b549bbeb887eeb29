/** Characters of a part's name. */
const MOST = 80

/** What a part may be called after its file: without the ending, with spaces, and with whole words where it is too long. */
export function partNameOf(fileName: string): string {
  const name = fileName
    .replace(/\.[a-z0-9]{1,5}$/i, '')
    .replace(/[-_]+/g, ' ')
    .trim()
  if (name.length <= MOST) return name
  return name
    .slice(0, MOST + 1)
    .replace(/\s+\S*$/, '')
    .slice(0, MOST)
}
