import type { ComponentProps } from 'react'
import { later } from './later'
import type PagerType from './Pager'

// few have a list so long
const Pager = later<ComponentProps<typeof PagerType>>(() => import('./Pager'), {
  what: 'The way through the pages',
})

/**
 * The way through a long list; nothing where all of it is in sight.
 * @param props of the list: its `total`, the `size` of a page, the `page` that is shown, and what it is a list `of`
 */
export function Pages(props: ComponentProps<typeof Pager>) {
  if (props.total <= props.size) return null
  return <Pager {...props} />
}
