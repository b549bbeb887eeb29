/**
 * Time of one straight move with a trapezoidal speed profile, s.
 * Kinematics: accelerate from `entry`, cruise at `speed`, brake to `exit`; where the distance is too short
 * the cruise is left out and the peak is √((2·a·d + entry² + exit²)/2).
 * @param distance mm
 * @param speed mm/s asked for
 * @param acceleration mm/s²
 * @param entry mm/s at the start
 * @param exit mm/s at the end
 */
export function moveTime(distance: number, speed: number, acceleration: number, entry = 0, exit = 0): number {
  if (distance <= 0) return 0
  const top = Math.max(speed, entry, exit)
  const ramps = (2 * top * top - entry * entry - exit * exit) / (2 * acceleration)
  if (ramps <= distance) return (2 * top - entry - exit) / acceleration + (distance - ramps) / top
  const peak = Math.sqrt((2 * acceleration * distance + entry * entry + exit * exit) / 2)
  return (2 * Math.max(peak, entry, exit) - entry - exit) / acceleration
}
