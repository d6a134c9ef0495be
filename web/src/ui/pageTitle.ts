import { productName, t } from '../texts'

/** What a page is, by its address, where its heading says only what it is about. */
const kinds: [RegExp, string][] = [
  [/^\/workshop\/[^/]+\/health$/, t('ui.health')],
  [/^\/workshop\/[^/]+\/structure$/, t('ui.fullStructure')],
  [/^\/workshop\//, t('ui.workshop')],
  [/^\/products\/./, t('ui.product')],
  [/^\/configurations\/./, t('ui.configuration')],
  [/^\/configure\//, t('ui.newConfiguration')],
  [/^\/structures\//, t('ui.structure')],
  [/^\/items\//, t('ui.item')],
]

/** Names the page in the browser's tab and history after its heading, and the place within it that one is at. */
export function titlePage(heading: HTMLElement | null, place?: string) {
  const title = heading?.textContent?.trim()
  if (heading)
    document.title = [place !== title && place, title, kinds.find(([address]) => address.test(location.pathname))?.[1], productName]
      .filter(Boolean)
      .join(' · ')
}
