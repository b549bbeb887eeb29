import { median } from '../../../statistics/summary'
import { Feature } from '../../../toolpath/features'
import { bodyLayer, longestRun, runsOf, usualFrom, type FindingRules } from './finding'

export const SPEED_FINDINGS = {
  'slow-down-swings': {
    raises: ['speed-swings'],
    find: (r) => {
      const from = bodyLayer(r)
      const top = usualFrom(r.layers.outerAsked, from)
      if (!top || r.layerCount < from + 4) return null
      const slow = runsOf(r, (l) => (r.layers.outerAsked[l] ?? top) < 0.8 * top, from)
      const all = slow.reduce((n, s) => n + s.layers.length, 0)
      const worst = longestRun(slow)
      if (!worst || all > 0.9 * (r.layerCount - from)) return null
      const least = Math.min(...worst.layers.map((l) => r.layers.outerAsked[l] ?? top))
      return {
        severity: least < 0.6 * top ? 'fault' : 'caution',
        from: worst.from,
        to: worst.to,
        size: least / top,
        values: {
          top,
          least,
          from: worst.from,
          to: worst.to,
          more: slow.length - 1,
          held: r.build.heldLayerTime,
        },
      }
    },
  },
  'speed-even': {
    clears: ['speed-swings'],
    find: (r) => {
      const known = r.layers.outerAsked.slice(bodyLayer(r)).filter((v): v is number => v !== null)
      if (known.length < 5) return null
      const speed = median(known)
      return known.every((v) => Math.abs(v - speed) < 0.06 * speed)
        ? { severity: 'good', values: { speed } }
        : null
    },
  },
  'outer-fastest': {
    raises: ['outer-wall-too-fast'],
    find: (r) => {
      const outer = r.features[Feature.Outer].asked
      const inner = r.features[Feature.Inner].asked
      return outer > 0 && inner > 0 && outer > 1.05 * inner
        ? { severity: 'caution', size: outer / inner, values: { outer, inner } }
        : null
    },
  },
  'outer-over-card': {
    raises: ['outer-wall-too-fast'],
    find: (r, { card }) => {
      const speed = r.rest.outerSpeed
      return speed !== null && speed > 1.5 * card.speed.outer
        ? {
            severity: 'caution',
            size: speed / card.speed.outer,
            values: { speed, card: card.speed.outer },
          }
        : null
    },
  },
  'speeds-apart': {
    raises: ['mixed-speeds'],
    find: (r) => {
      const all = [Feature.Outer, Feature.Inner, Feature.Solid, Feature.Infill]
        .map((f) => r.features[f])
        .filter((f) => f.length > 20 && f.asked > 0)
        .map((f) => f.asked)
      if (all.length < 2 || r.pressure) return null
      const ratio = Math.max(...all) / Math.min(...all)
      return ratio > 2.2 ? { severity: 'note', size: ratio, values: { ratio } } : null
    },
  },
  unreachable: {
    find: (r) => {
      const { length, asked, reached } = r.features[Feature.Outer]
      return length > 100 && reached < 0.7 * asked
        ? { severity: 'note', size: reached / asked, values: { asked, reached } }
        : null
    },
  },
  'bridges-quick': {
    raises: ['cooling-too-weak'],
    decibans: 2,
    find: (r) => {
      const bridge = r.features[Feature.Bridge]
      const outer = r.features[Feature.Outer]
      return bridge.length > 20 && outer.asked > 0 && bridge.asked > 1.2 * outer.asked
        ? { severity: 'note', size: bridge.asked / outer.asked, values: { speed: bridge.asked } }
        : null
    },
  },
} satisfies FindingRules
