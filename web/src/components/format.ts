const relative = new Intl.RelativeTimeFormat('en', { numeric: 'auto' })

/** "3 days ago", "just now". */
export function ago(iso: string, now = Date.now()): string {
  const s = (Date.parse(iso) - now) / 1000
  const size = Math.abs(s)
  if (size < 45) return 'just now'
  if (size < 3600) return relative.format(Math.round(s / 60), 'minute')
  if (size < 86_400) return relative.format(Math.round(s / 3600), 'hour')
  return relative.format(Math.round(s / 86_400), 'day')
}

/** Today as yyyy-mm-dd in the person's own time. */
export function today(): string {
  const d = new Date()
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`
}

export const percent = (p: number): string =>
  p >= 0.995 ? '> 99 %' : p < 0.01 ? '< 1 %' : `${Math.round(p * 100)} %`
