/** Thin space between figure and unit, true minus sign: the one place that writes quantities. */
const THIN = '\u2009'

/**
 * Writes a number with a true minus sign and without trailing zeros.
 * @param value the number; a non-finite one is written as an en dash
 * @param digits most decimals to show
 */
export function figure(value: number, digits = 2): string {
  if (!Number.isFinite(value)) return '–'
  const rounded = Number(value.toFixed(digits))
  const text = String(Object.is(rounded, -0) ? 0 : rounded)
  return text.replace('-', '\u2212')
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
