// Written by `npm run pictures`.
import type { SignId } from '@verimend/core/knowledge'

/** Signs that have pictures, and what these show. */
export const SIGN_PICTURES: Partial<Record<SignId, readonly ('none' | 'slight' | 'clear')[]>> = {
  'corners-lift': ['none', 'slight', 'clear'],
  'base-flare': ['none', 'slight', 'clear'],
  'first-layer-gaps': ['none', 'slight', 'clear'],
  'first-layer-ridges': ['none', 'slight', 'clear'],
  'first-layer-uneven': ['none', 'slight', 'clear'],
  'waves-regular-height': ['none', 'slight', 'clear'],
  ghosting: ['none', 'slight', 'clear'],
}
