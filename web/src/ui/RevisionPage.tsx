import { useQuery } from '@tanstack/react-query'
import { type ReactNode } from 'react'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../api/client'
import { inEnglish } from './format'
import { TitleBlock, type TitleCell } from './TitleBlock'
import { t } from '../texts'

export type RevisionHere = Schemas['RevisionView']

/** The revision that an address names, as it stands. */
export function useRevisionHere() {
  const revisionId = Number(useParams().revisionId)
  const revision = useQuery({
    queryKey: ['revision', revisionId],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}', { params: { path: { id: revisionId } }, signal })),
  })
  return { revisionId, revision }
}

type Props = ReturnType<typeof useRevisionHere> & {
  title: string
  /** What stands beside the number and state of the revision. */
  cells: TitleCell[]
  actions?: ReactNode
  children: (revision: RevisionHere) => ReactNode
}

/** A page about one revision, under its title block, with the way back to the workshop. */
export function RevisionPage({ revisionId, revision, title, cells, actions, children }: Props) {
  if (revision.error) return <p className="p-8">{sentenceOf(revision.error)}</p>
  if (!revision.data) return <p className="quiet p-8">{t('ui.oneMoment')}</p>
  const doc = revision.data.document
  return (
    <div className="flex h-full flex-col gap-3 overflow-auto p-4">
      <TitleBlock
        title={title}
        sub={
          <Link className="link" to={`/workshop/${revisionId}`}>
            {inEnglish(doc.label) || doc.code}
          </Link>
        }
        cells={[{ label: t('ui.revision'), value: `${revision.data.number} ${revision.data.state}` }, ...cells]}
        actions={actions}
      />
      {children(revision.data)}
    </div>
  )
}
