import type { CasePhoto } from '@verimend/contract'

/** Which print a photo shows. */
export const shows = (p: Pick<CasePhoto, 'afterAttempt'>) =>
  p.afterAttempt === 0 ? 'before any change' : `after attempt ${p.afterAttempt}`
