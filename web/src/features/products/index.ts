export { ProductPage } from './ProductPage'
export { ProductsPage } from './ProductsPage'
export { TimesPage } from './TimesPage'
