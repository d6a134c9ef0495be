/** What a page is, by its address, where its heading says only what it is about. */
const kinds: [RegExp, string][] = [
  [/^\/workshop\/[^/]+\/health$/, 'Health'],
  [/^\/workshop\/[^/]+\/structure$/, 'Full structure'],
  [/^\/workshop\//, 'Workshop'],
  [/^\/products\/./, 'Product'],
  [/^\/configurations\/./, 'Configuration'],
  [/^\/configure\//, 'New configuration'],
  [/^\/structures\//, 'Structure'],
  [/^\/items\//, 'Item'],
]

/** Names the page in the browser's tab and history after its heading, and the place within it that one is at. */
export function titlePage(heading: HTMLElement | null, place?: string) {
  const title = heading?.textContent?.trim()
  if (heading)
    document.title = [place !== title && place, title, kinds.find(([address]) => address.test(location.pathname))?.[1], 'Juniperfall']
      .filter(Boolean)
      .join(' · ')
}
