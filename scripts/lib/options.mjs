import { parseArgs } from 'node:util'
import { say } from './say.mjs'

/**
 * What a script was given on the command line. Help is said and is the end; what it does not know is said with the help, and ends it
 * with 2.
 * @param help how it is used
 * @param options as `parseArgs` takes them; `help` is always one
 * @param fault says in a sentence what is wrong with the words that stand alone, where they may stand at all
 */
export function optionsOf(help, options, fault) {
  let given
  try {
    given = parseArgs({
      allowPositionals: !!fault,
      options: { ...options, help: { type: 'boolean', default: false } },
    })
    const wrong = !given.values.help && fault?.(given.positionals)
    if (wrong) throw new Error(wrong)
  } catch (error) {
    console.error(`${error.message}\n\n${help}`)
    process.exit(2)
  }
  if (given.values.help) {
    say(help)
    process.exit(0)
  }
  return given
}
