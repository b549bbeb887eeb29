/** How a controller spells what differs from one to the other. */
export interface Commands {
  feed: 'relative' | 'absolute'
  /** M106 S0–255, or S0–1. */
  fan: 'bytes' | 'fraction'
  /** M204 P… T… for printing and travelling apart, or M204 S… for both. */
  acceleration: 'split' | 'single' | 'none'
  /** M205 X… Y… as a change of speed, or M205 J… as a deviation. */
  corner: 'change' | 'deviation' | 'none'
  /** M900 K…, or M572 S…. */
  pressure: 'k' | 's' | 'none'
  /** G29 before each print, or M420 S1 for a kept grid. */
  level: 'probe' | 'kept' | 'none'
}
export const USUAL_COMMANDS: Commands = {
  feed: 'relative',
  fan: 'bytes',
  acceleration: 'split',
  corner: 'none',
  pressure: 'k',
  level: 'none',
}
/** A machine's commands, what is not said as usual; one with a probe uses it. */
export const commandsOf = (machine: {
  commands?: Commands
  bed?: { levelling: 'screws' | 'probe' }
}): Commands => ({
  ...USUAL_COMMANDS,
  ...(machine.bed?.levelling === 'probe' && { level: 'probe' as const }),
  ...machine.commands,
})
