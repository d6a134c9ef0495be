import i18next from 'i18next'

/**
 * The texts of the interface, by language and subject: `texts/<language>/<subject>.json`. English is whole; a folder beside it is another language,
 * and what it lacks is shown in English.
 */
const english = import.meta.glob<Record<string, unknown>>('./en/*.json', { eager: true, import: 'default' })
const others = import.meta.glob<Record<string, unknown>>(['./*/*.json', '!./en/*.json'], { import: 'default' })

const subjectOf = (path: string) => path.split('/')[2]!.replace('.json', '')
const languageOf = (path: string) => path.split('/')[1]!

/** The name of the product, which is the same in every language. */
export const productName = 'Juniperfall'

const kept = 'juniperfall.language'

/** The languages that there are, the one that is whole first. */
export const languages: string[] = ['en', ...new Set(Object.keys(others).map(languageOf))]

/** The language of the interface, of numbers and of dates. */
export const language: string = languages.find((l) => l === localStorage.getItem(kept)) ?? 'en'

/** Chooses a language; it holds from the next time the page is opened. */
export const chooseLanguage = (wanted: string) => localStorage.setItem(kept, wanted)

void i18next.init({
  lng: language,
  fallbackLng: 'en',
  initAsync: false,
  // React escapes what it shows.
  interpolation: { escapeValue: false },
  resources: { en: { translation: Object.fromEntries(Object.entries(english).map(([path, texts]) => [subjectOf(path), texts])) } },
})

/** Brings the texts of the chosen language in; nothing of the interface may be read before. */
export async function textsReady(): Promise<void> {
  for (const [path, load] of Object.entries(others))
    if (languageOf(path) === language) i18next.addResourceBundle(language, 'translation', { [subjectOf(path)]: await load() }, true)
  document.documentElement.lang = language
}

/** A text of the interface by its key, with what is filled into it. Counted texts take `count`. */
export const t = i18next.t.bind(i18next)
