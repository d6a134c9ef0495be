import { useQuery } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import { ask, client, type Schemas } from '../../api/client'
import type { Question } from '../../api/question'
import { t } from '../../texts'

/** What is being tried out, so that formulas in what comes of it can be worked out; none where that is told along with it. */
export const TriedOut = createContext<{ revisionId: number; question: Question } | null>(null)

type Formula = { rowId: string; prefix: string; field: string; formula: string }

/** A formula worked out step by step, as on paper: told along with it, or asked for where something is tried out. */
export function Steps({ known, ...formula }: Formula & { known: Schemas['WorkingStepView'][] | null }) {
  const tried = useContext(TriedOut)
  return known ? <List steps={known} /> : tried && <WorkedOut tried={tried} {...formula} />
}

function WorkedOut({
  tried: { revisionId, question },
  rowId,
  prefix,
  field,
  formula,
}: Formula & { tried: { revisionId: number; question: Question } }) {
  const steps = useQuery({
    queryKey: ['working', revisionId, question, rowId, prefix, field, formula],
    queryFn: ({ signal }) =>
      ask(client.POST('/api/revisions/{id}/working', { params: { path: { id: revisionId } }, body: { ...question, rowId, prefix, field }, signal })),
    staleTime: Infinity,
  })
  return <List steps={steps.data ?? []} />
}

function List({ steps }: { steps: Schemas['WorkingStepView'][] }) {
  const shown = steps.filter((s) => s.text.trim() !== '')
  // A name alone is told beside the formula already.
  if (shown.length < 2) return null
  return (
    <ol aria-label={t('structures.workedOut')} className="mt-1 grid grid-cols-[minmax(0,auto)_auto] justify-start gap-x-3">
      {shown.map((s) => (
        <li key={s.text} className="contents">
          <span className="font-mono break-words">{s.text}</span>
          <span className="whitespace-nowrap">= {s.result}</span>
        </li>
      ))}
    </ol>
  )
}
