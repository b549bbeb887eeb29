import type { FindingRules } from './finding'

/** Least early stop or wipe that counts as one, mm. */
const TREATED = 0.2

export const SEAM_FINDINGS = {
  'seam-stacked': {
    raises: ['seam-stacked'],
    clears: ['seam-scattered'],
    find: ({ seam }) =>
      seam.stacked !== null && seam.stacked > 0.8 && seam.count > 8
        ? {
            severity: 'note',
            size: seam.stacked,
            values: {
              share: seam.stacked * 100,
              corner: seam.outwardCorner > 0.7 ? 'outward' : seam.inwardCorner > 0.7 ? 'inward' : null,
            },
          }
        : null,
  },
  'seam-scattered': {
    raises: ['seam-scattered'],
    clears: ['seam-stacked'],
    find: ({ seam }) =>
      seam.stacked !== null &&
      seam.stacked < 0.4 &&
      seam.objects.some((o) => o.count > 8 && o.resultantLength < 0.6)
        ? { severity: 'note', size: seam.stacked, values: {} }
        : null,
  },
  'ends-untreated': {
    raises: ['loop-end-overfill', 'pressure-not-relieved'],
    find: ({ seam, pressure }, { blobs }) =>
      seam.count > 8 && seam.early < 0.02 && seam.wipe < 0.05 && !pressure
        ? { severity: blobs ? 'fault' : 'note', values: {} }
        : null,
  },
  'ends-treated': {
    clears: ['loop-end-overfill'],
    find: ({ seam }) =>
      seam.count > 8 && (seam.early >= TREATED || seam.wipe >= TREATED)
        ? {
            severity: 'good',
            values: {
              early: seam.early >= TREATED ? seam.early : null,
              wipe: seam.wipe >= TREATED ? seam.wipe : null,
            },
          }
        : null,
  },
  'early-stop-long': {
    raises: ['loop-start-starved'],
    decibans: 6,
    find: ({ seam }, { nozzle }) =>
      seam.early > 3 * nozzle
        ? { severity: 'caution', size: seam.early, values: { early: seam.early } }
        : null,
  },
} satisfies FindingRules
