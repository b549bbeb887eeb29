import { bodyLayer, heightsOf, longestRun, runsOf, type FindingRules } from './finding'

export const HEAT_FINDINGS = {
  'fan-early': {
    raises: ['fan-on-first-layers'],
    find: (r, { card }) => {
      const duty = Math.max(...r.layers.fan.slice(0, Math.min(2, r.layerCount)))
      return duty > 0.05 && card.fan.offLayers > 0
        ? {
            severity: 'fault',
            from: 0,
            to: r.layers.z[Math.min(1, r.layerCount - 1)],
            size: duty,
            values: { duty: duty * 100 },
          }
        : null
    },
  },
  'fan-late': {
    clears: ['fan-on-first-layers'],
    find: (r) =>
      r.layerCount > 2 && Math.max(...r.layers.fan.slice(0, 2)) < 0.02
        ? { severity: 'good', values: {} }
        : null,
  },
  'fan-steps': {
    raises: ['cooling-too-strong', 'cooling-too-weak'],
    find: (r) => {
      for (let l = Math.max(bodyLayer(r), (r.fanFromLayer ?? 0) + 2) + 1; l < r.layerCount; l++) {
        const [before, after] = [r.layers.fan[l - 1], r.layers.fan[l]]
        if (Math.abs(after - before) > 0.25)
          return {
            severity: 'note',
            ...heightsOf(r, l),
            size: after - before,
            values: { before: before * 100, after: after * 100, z: r.layers.z[l] },
          }
      }
      return null
    },
  },
  'heat-steps': {
    raises: ['nozzle-too-hot', 'nozzle-too-cold'],
    decibans: 3,
    find: (r) => {
      for (let l = bodyLayer(r) + 1; l < r.layerCount; l++) {
        const [before, after] = [r.layers.nozzle[l - 1], r.layers.nozzle[l]]
        if (before !== null && after !== null && Math.abs(before - after) >= 3)
          return {
            severity: 'caution',
            ...heightsOf(r, l),
            size: after - before,
            values: { before, after, z: r.layers.z[l] },
          }
      }
      return null
    },
  },
  'layers-too-quick': {
    raises: ['layer-time-too-short', 'cooling-too-weak'],
    find: (r, { coolingTime: needed }) => {
      const worst = longestRun(runsOf(r, (l) => r.layers.seconds[l] < 0.8 * needed, bodyLayer(r)))
      if (!worst) return null
      const seconds = Math.min(...worst.layers.map((l) => r.layers.seconds[l]))
      return {
        severity: seconds < 0.5 * needed ? 'fault' : 'caution',
        from: worst.from,
        to: worst.to,
        size: seconds / needed,
        values: { seconds, needed, from: worst.from, to: worst.to },
      }
    },
  },
  'layers-cool': {
    clears: ['layer-time-too-short'],
    find: (r, { coolingTime: needed }) =>
      r.layerCount > 3 && r.layers.seconds.slice(1).every((s) => s > 1.2 * needed)
        ? { severity: 'good', values: { needed } }
        : null,
  },
} satisfies FindingRules
