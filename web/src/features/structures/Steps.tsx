import { useQuery } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import { ask, client, type Schemas } from '../../api/client'
import type { Question } from '../bench/useBench'

/** What is being tried out, so that formulas in what comes of it can be worked out; none where that is told along with it. */
export const TriedOut = createContext<{ revisionId: number; question: Question } | null>(null)

type Props = { known: Schemas['WorkingStepView'][] | null; rowId: string; prefix: string; field: string; formula: string }

/** A formula worked out step by step, as on paper. */
export function Steps({ known, rowId, prefix, field, formula }: Props) {
  const tried = useContext(TriedOut)
  const steps = useQuery({
    queryKey: ['working', tried?.revisionId, tried?.question, rowId, prefix, field, formula],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/working', { params: { path: { id: tried!.revisionId } }, body: { ...tried!.question, rowId, prefix, field }, signal })),
    enabled: known === null && tried !== null,
    staleTime: Infinity,
  })
  const shown = (known ?? steps.data ?? []).filter((s) => s.text.trim() !== '')
  // A name alone is told beside the formula already.
  if (shown.length < 2) return null
  return (
    <ol className="mt-1 grid grid-cols-[minmax(0,auto)_auto] justify-start gap-x-3">
      {shown.map((s) => (
        <li key={s.text} className="contents">
          <span className="font-mono break-words">{s.text}</span>
          <span className="whitespace-nowrap">= {s.result}</span>
        </li>
      ))}
    </ol>
  )
}
