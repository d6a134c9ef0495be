/** Goes to a row on its worksheet. */
export type GoTo = (assemblyId: string, rowId: string) => void
