import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../../api/client'
import { t } from '../../texts'

/** What a change would do to one product: faults, test cases, what is saved. */
export function TouchedProduct({ product: p, children }: { product: Schemas['TouchedProductView']; children?: ReactNode }) {
  return (
    <div className="border-l-3 border-primary pl-3">
      <p>
        <Link className="link" to={`/workshop/${p.revisionId}`}>
          {p.code}
        </Link>{' '}
        {p.label} <span className="quiet">{p.state === 'draft' || p.state === 'in review' ? t('library.itsDraft') : t('library.itsNextDraft')}</span>
      </p>
      {children}
      {p.faults.map((f) => (
        <p key={f} className="fault">
          {f}
        </p>
      ))}
      {p.failingCases > 0 && (
        <details>
          <summary className="cursor-pointer">{t('library.casesWouldFail', { n: p.failingCases, all: p.cases })}</summary>
          <ul className="text-sm">
            {p.failing.map((f) => (
              <li key={f}>{f}</li>
            ))}
          </ul>
        </details>
      )}
      {p.entries.length > 0 && (
        <details>
          <summary className="cursor-pointer">{t('library.savedWouldChange', { n: p.entries.length, asked: p.asked })}</summary>
          <ul className="text-sm">
            {p.entries.map((e) => (
              <li key={e.id} className="border-b hair py-px">
                {e.name}:{' '}
                {e.because ||
                  e.changes
                    .slice(0, 3)
                    .map((c) => `${c.subject} ${c.before} → ${c.after}`)
                    .join('; ')}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}
