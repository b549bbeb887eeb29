/** Lets the browser save bytes or words under a name. */
export function saveFile(name: string, content: string | Uint8Array | Blob, type: string): void {
  const address = URL.createObjectURL(new Blob([content as BlobPart], { type }))
  const link = document.createElement('a')
  link.href = address
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(address), 10_000)
}
