export { CasesCell } from './CasesCell'
export { CasesPage } from './CasesPage'
export { KeepAsCase } from './KeepAsCase'
export { casesInShort, useCases } from './useCases'
