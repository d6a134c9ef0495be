export { ProductPage } from './ProductPage'
export { ProductsPage } from './ProductsPage'
