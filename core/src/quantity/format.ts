/** How numbers are written; the one place that names a language. */
export const LOCALE = 'en-GB'
/** Thin space between figure and unit. */
const THIN = '\u2009'

const writers = new Map<number, Intl.NumberFormat>()
/** The writer of numbers with at most so many decimals; made once, since making one is dear. */
function writer(digits: number): Intl.NumberFormat {
  let found = writers.get(digits)
  if (!found) {
    found = new Intl.NumberFormat(LOCALE, { maximumFractionDigits: digits, useGrouping: false })
    writers.set(digits, found)
  }
  return found
}

/**
 * Writes a number with a true minus sign and without trailing zeros.
 * @param value the number; a non-finite one is written as an en dash
 * @param digits most decimals to show
 */
export function figure(value: number, digits = 2): string {
  if (!Number.isFinite(value)) return '–'
  // rounded first, as everything that is computed with the shown value is; + 0: no minus before a zero
  return writer(digits)
    .format(Number(value.toFixed(digits)) + 0)
    .replace('-', '\u2212')
}

/** Writes a quantity such as "4.5 mm" with a thin space; percentages and degrees follow the same rule. */
export function quantity(value: number, unit: string, digits = 2): string {
  return unit ? `${figure(value, digits)}${THIN}${unit}` : figure(value, digits)
}

/** Writes a signed change such as "+5 °C" or "−0.2 mm". */
export function change(value: number, unit: string, digits = 2): string {
  const sign = value > 0 ? '+' : ''
  return sign + quantity(value, unit, digits)
}

/** Writes seconds as "1 h 05 min", "4 min 10 s" or "8 s". */
export function duration(seconds: number): string {
  if (!Number.isFinite(seconds)) return '–'
  const whole = Math.round(seconds)
  const hours = Math.floor(whole / 3600)
  const minutes = Math.floor((whole % 3600) / 60)
  const rest = whole % 60
  const two = (n: number) => String(n).padStart(2, '0')
  if (hours) return `${hours}${THIN}h ${two(minutes)}${THIN}min`
  if (minutes) return `${minutes}${THIN}min ${two(rest)}${THIN}s`
  return `${rest}${THIN}s`
}

/** Writes a byte count as "3.2 MB". */
export function bytes(count: number): string {
  if (count >= 1e6) return quantity(count / 1e6, 'MB', 1)
  if (count >= 1e3) return quantity(count / 1e3, 'kB', 1)
  return quantity(count, 'bytes', 0)
}
