import { readingContextOf, writePractice } from '@verimend/core/casework'
import { readGcode, RewriteError } from '@verimend/core/gcode'
import type { Kernel } from '@verimend/core/geometry'
import type { Machine } from '@verimend/core/machine'
import { SETTING_KEYS, changesOfFile, settingApplies, type RecipeValues } from '@verimend/core/recipe'
import { ChangeError, checkRewritten, rewriteFile, type FileChange } from '@verimend/core/rewrite'
import { analysePath, summarise } from '@verimend/core/toolpath'

/** How a print's file came about. */
export type Made = 'anew' | 'changed' | 'same'

/** A file that was printed, and the recipe it was printed with. */
export interface PrintedWith {
  gcode: string
  recipe: RecipeValues
}

/**
 * The file of the next print, as a person gets it who follows the app: the one that was printed, with what the recipe has moved
 * written into it; made anew where lines have to lie elsewhere.
 * @param kernel without it, what lays lines round a part is made anew
 */
export function nextFile(
  before: PrintedWith | null,
  recipe: RecipeValues,
  machine: Machine,
  kernel?: Kernel,
): { gcode: string; made: Made } {
  const anew = () => ({ gcode: writePractice(machine, recipe), made: 'anew' as const })
  if (!before) return anew()
  const settings = SETTING_KEYS.filter(
    (key) => before.recipe[key].value !== recipe[key].value && settingApplies(key, recipe),
  ).map((key) => ({ key, from: before.recipe[key].value, to: recipe[key].value }))
  if (!settings.length) return { gcode: before.gcode, made: 'same' }
  const bytes = new TextEncoder().encode(before.gcode)
  const context = readingContextOf(machine, before.recipe)
  const read = (of: Uint8Array) => {
    const analysis = analysePath(readGcode(of, context), context)
    return { analysis, reading: summarise(analysis) }
  }
  const file = read(bytes)
  const { changes, laidAnew, unknown } = changesOfFile(settings, file.reading, recipe)
  if (laidAnew.length || unknown.length) return anew()
  const written = (list: readonly FileChange[]) => {
    const { bytes: out } = rewriteFile(bytes, file, list, machine, context.filamentDiameter, kernel)
    checkRewritten(file.reading, read(out).reading, list)
    return new TextDecoder().decode(out)
  }
  const does = (list: readonly FileChange[]) => {
    try {
      return written(list)
    } catch (error) {
      if (error instanceof ChangeError && error.reason.code === 'change-does-nothing') return null
      throw error
    }
  }
  try {
    const effective = changes.length > 1 ? changes.filter((c) => does([c]) !== null) : changes
    const gcode = effective.length ? does(effective) : null
    return gcode === null ? { gcode: before.gcode, made: 'same' } : { gcode, made: 'changed' }
  } catch (error) {
    if (error instanceof ChangeError || error instanceof RewriteError) return anew()
    throw error
  }
}
