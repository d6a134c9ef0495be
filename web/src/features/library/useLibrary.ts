import { useQuery } from '@tanstack/react-query'
import { ask, client } from '../../api/client'

/** Sites, work centres, standard operations, customer classes and units, as pages offer them to choose from. */
export const useLibrary = () =>
  useQuery({ queryKey: ['library'], queryFn: ({ signal }) => ask(client.GET('/api/library', { signal })), staleTime: 60_000 })
