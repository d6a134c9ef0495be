import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Sheet } from '../../ui/Sheet'
import { t } from '../../texts'

/** Withdrawing a released revision: what becomes of what is saved on it, and why. */
export function WithdrawSheet({ revision, onClose }: { revision: Schemas['RevisionEntryView']; onClose: () => void }) {
  const queries = useQueryClient()
  const [why, setWhy] = useState('')
  const withdraw = useMutation({
    mutationFn: () => ask(client.POST('/api/revisions/{id}/withdraw', { params: { path: { id: revision.id } }, body: { why } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ predicate: (q) => ['revision', 'revisions', 'product', 'products'].includes(String(q.queryKey[0])) })
      onClose()
    },
  })
  return (
    <Sheet title={t('products.withdrawRevision', { number: revision.number })} onClose={onClose}>
      <div className="grid gap-3">
        <p>{t('products.whatWithdrawingDoes', { count: revision.configurations })}</p>
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">{t('products.whyItIsWithdrawn')}</span>
          <textarea className="textarea min-h-16" maxLength={2000} value={why} onChange={(e) => setWhy(e.target.value)} />
        </label>
        {withdraw.error && (
          <p role="alert" className="fault">
            {sentenceOf(withdraw.error)}
          </p>
        )}
        <button className="btn btn-primary justify-self-start" disabled={why.trim() === '' || withdraw.isPending} onClick={() => withdraw.mutate()}>
          {t('products.withdraw')}
        </button>
      </div>
    </Sheet>
  )
}
