/** The page's nonce, from the server; empty while developing. */
export const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content

/**
 * Gives every style element made from now on the page's nonce. Some component libraries add styles without
 * asking for one; the strict content policy would drop those.
 */
export function styleWithNonce(): void {
  if (!nonce) return
  const create = document.createElement.bind(document)
  document.createElement = ((name: string, options?: ElementCreationOptions) => {
    const element = create(name, options)
    if (name.toLowerCase() === 'style') element.nonce = nonce
    return element
  }) as typeof document.createElement
}
