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

/** Of the ref of a page's heading: names the page in the browser's tab and history after it. */
export function titlePage(heading: HTMLElement | null) {
  if (heading) document.title = [heading.textContent?.trim(), kinds.find(([address]) => address.test(location.pathname))?.[1], 'Juniperfall'].filter(Boolean).join(' · ')
}
