import type { SignId } from '@verimend/core/knowledge'
import { SIGN_PICTURES } from './signPictures'

/** Whether there are pictures of a sign. */
export const hasPictures = (sign: SignId): boolean => SIGN_PICTURES[sign] !== undefined
