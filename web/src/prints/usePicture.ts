import { useQuery } from '@tanstack/react-query'
import { api } from '../api/client'

/** A picture of a print, and how its pixels lie on the machine: mm of a pixel, and mm at its upper left corner. */
export interface PrintPicture {
  /** It all, as an address. */
  href: string
  scale: number
  left: number
  top: number
}

const asAddress = (blob: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(reader.result as string)
    reader.onerror = () => reject(new Error('The picture could not be read.'))
    reader.readAsDataURL(blob)
  })

/** Asks for a picture of a print. */
export const usePicture = (id: string, view: 'side' | 'top' | 'first') =>
  useQuery({
    queryKey: ['prints', 'picture', id, view],
    staleTime: Infinity,
    retry: false,
    queryFn: async ({ signal }): Promise<PrintPicture> => {
      const response = await fetch(api.prints.pictureHref(id, view), { signal })
      if (!response.ok) throw new Error('The picture could not be made.')
      const lies = JSON.parse(response.headers.get('X-Picture') ?? '{}') as Omit<PrintPicture, 'href'>
      return { href: await asAddress(await response.blob()), ...lies }
    },
  })
