import type { SIZE } from '../settings/size'
import { always, hundred, type RulesOf } from './engine'
import { because } from './reasons'

export const SIZE_RULES: RulesOf<typeof SIZE> = {
  contourOffset: always(0, because('zero-until-plate')),
  holeOffset: always(0, because('zero-until-plate')),
  footTrim: always(0, because('zero-until-flare')),
  scaleX: hundred('scaleX'),
  scaleY: hundred('scaleY'),
  scaleZ: hundred('scaleZ'),
}
