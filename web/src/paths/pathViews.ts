/** The views of a path reading, in the order they are offered. */
export const PATH_VIEWS = [
  { value: 'heights', label: 'By height' },
  { value: 'layer', label: 'From above' },
  { value: 'seam', label: 'Seam' },
  { value: 'feed', label: 'Filament' },
  { value: 'figures', label: 'Figures' },
] as const
export type PathViewId = (typeof PATH_VIEWS)[number]['value']
