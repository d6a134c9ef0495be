export { ItemPage } from './ItemPage'
export { LibraryPage } from './LibraryPage'
export { useLibrary } from './useLibrary'
