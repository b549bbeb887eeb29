import type { Evaluated } from '../measurement/evaluate'
import type { RecipeValues } from '../recipe/derive'
import { roundTo, settingOf, type NumberKey } from '../recipe/settings'
import type { Adoptable } from '../trials/outcome'

/** Values a measurement hands to the recipe; with `instead` where it is the one or the other. */
export interface MeasuredValues {
  adopt: Adoptable[]
  instead: Adoptable[]
}

/** What the recipe may take from a measurement, rounded and held as its settings are. */
export function valuesMeasured(evaluated: Evaluated, recipe: RecipeValues): MeasuredValues {
  const { of, outcome } = evaluated
  const held = (key: NumberKey, value: number, plusMinus: number): Adoptable => {
    const s = settingOf(key)
    return {
      key,
      value: roundTo(s, Math.min(s.max, Math.max(s.min, value))),
      plusMinus: Number(plusMinus.toPrecision(2)),
    }
  }
  const changes = (list: readonly Adoptable[]) => list.filter((a) => a.value !== recipe[a.key].value)
  if (of === 'sizes') {
    const all = (list: readonly { key: NumberKey; value: number; plusMinus: number }[]) =>
      changes(list.map((c) => held(c.key, c.value, c.plusMinus)))
    return { adopt: all(outcome.corrections), instead: all(outcome.instead) }
  }
  if (of === 'bed' && outcome.kind === 'found') {
    const { firstHeight, gapChange, bow } = outcome
    return {
      adopt: changes([
        ...(firstHeight !== null && bow > 0 && firstHeight > recipe.firstHeight.value
          ? [held('firstHeight', firstHeight, 0.02)]
          : []),
        ...(gapChange !== null && Math.abs(gapChange) >= 0.01
          ? [held('zOffset', recipe.zOffset.value + gapChange, 0.02)]
          : []),
      ]),
      instead: [],
    }
  }
  if (of === 'simple' && evaluated.what === 'diameter' && outcome.kind === 'found')
    return { adopt: changes([held('diameter', outcome.value!, outcome.plusMinus!)]), instead: [] }
  if (of === 'ripples' && outcome.acceleration !== null)
    return {
      adopt: changes([
        held('outerAcceleration', Math.min(outcome.acceleration, recipe.outerAcceleration.value), 0),
      ]),
      instead: [],
    }
  return { adopt: [], instead: [] }
}
