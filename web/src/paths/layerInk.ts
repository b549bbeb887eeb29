import { Feature } from '@verimend/core/toolpath'

/** What the lines of a layer are coloured by. */
export type Shade = 'feature' | 'speed'

/** Muted tints; lines are told apart by weight and dash first. Strength of ink by feature. */
export const INK: Record<number, { tint: [string, string]; alpha: number }> = {
  [Feature.Outer]: { tint: ['#1c2826', '#e8e6df'], alpha: 0.78 },
  [Feature.Inner]: { tint: ['#7d837c', '#9aa39d'], alpha: 0.55 },
  [Feature.Solid]: { tint: ['#b9b2a0', '#6d6a5e'], alpha: 0.6 },
  [Feature.Infill]: { tint: ['#a7b1a9', '#66736c'], alpha: 0.55 },
  [Feature.Bridge]: { tint: ['#8f86a0', '#8a83a3'], alpha: 0.6 },
  [Feature.Skirt]: { tint: ['#47597a', '#9db1d6'], alpha: 0.45 },
  [Feature.Brim]: { tint: ['#47597a', '#9db1d6'], alpha: 0.5 },
  [Feature.Raft]: { tint: ['#8c7f63', '#8c7f63'], alpha: 0.5 },
  [Feature.Support]: { tint: ['#9aa88f', '#71806a'], alpha: 0.45 },
  [Feature.Thin]: { tint: ['#1c2826', '#e8e6df'], alpha: 0.6 },
  [Feature.None]: { tint: ['#888888', '#888888'], alpha: 0.4 },
}
