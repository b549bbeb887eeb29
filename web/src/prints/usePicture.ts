import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { api } from '../api/client'

/** A picture of a print, and how its pixels lie on the machine: mm of a pixel, and mm at its upper left corner. */
export interface PrintPicture {
  blob: Blob
  scale: number
  left: number
  top: number
}

/** Asks for a picture. @returns it with an address to show it by, which is given back when it is no longer shown */
export function usePicture(id: string, view: 'side' | 'top' | 'first', enabled: boolean) {
  const query = useQuery({
    queryKey: ['prints', 'picture', id, view],
    enabled,
    staleTime: Infinity,
    retry: false,
    queryFn: async ({ signal }): Promise<PrintPicture> => {
      const response = await fetch(api.prints.pictureHref(id, view), { signal })
      if (!response.ok) throw new Error('The picture could not be made.')
      const lies = JSON.parse(response.headers.get('X-Picture') ?? '{}') as Omit<PrintPicture, 'blob'>
      return { blob: await response.blob(), ...lies }
    },
  })
  const blob = query.data?.blob
  const href = useMemo(() => (blob ? URL.createObjectURL(blob) : null), [blob])
  useEffect(() => () => (href ? URL.revokeObjectURL(href) : undefined), [href])
  return { ...query, href }
}
