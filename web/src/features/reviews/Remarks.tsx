import { useState } from 'react'
import { Link } from 'react-router'
import { sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { useRemarkActs, useRemarks, type Remark } from './useRemarks'
import { t } from '../../texts'

type Props = {
  revisionId: number
  /** The row that they are on; null for all of the revision, those on it as a whole among them. */
  rowId: string | null
}

/** Remarks with their answers, and a field for another one. */
export function Remarks({ revisionId, rowId }: Props) {
  const remarks = useRemarks(revisionId)
  const { write } = useRemarkActs(revisionId)
  const mayRemark = useRight('remark')
  const shown = (remarks.data ?? []).filter((r) => rowId === null || r.rowId === rowId)
  const open = shown.filter((r) => r.closedAt === null)
  const closed = shown.filter((r) => r.closedAt !== null)
  const list = (of: Remark[]) => (
    <ul className="grid gap-2">
      {of.map((r) => (
        <OneRemark key={r.id} remark={r} revisionId={revisionId} named={rowId === null} />
      ))}
    </ul>
  )
  return (
    <div className="grid gap-2">
      {remarks.error && <p className="fault">{sentenceOf(remarks.error)}</p>}
      {open.length > 0 && list(open)}
      {closed.length > 0 && (
        <details>
          <summary className="quiet cursor-pointer text-sm">{t('reviews.closedRemarks', { n: closed.length })}</summary>
          {list(closed)}
        </details>
      )}
      {mayRemark && (
        <Write
          label={rowId === null ? t('reviews.aRemarkOnTheWhole') : t('reviews.aRemarkOnThisRow')}
          send={t('reviews.remark')}
          error={write.error}
          onSend={(text, done) => write.mutate({ rowId: rowId ?? '', text }, { onSuccess: done })}
        />
      )}
    </div>
  )
}

function OneRemark({ remark: r, revisionId, named }: { remark: Remark; revisionId: number; named: boolean }) {
  const { answer, close } = useRemarkActs(revisionId)
  const mayRemark = useRight('remark')
  const [answering, setAnswering] = useState(false)
  return (
    <li className={`border-l-3 pl-3 ${r.closedAt ? 'hair' : 'border-primary'}`}>
      {named && r.rowId && (
        <p className="text-sm">
          {r.assemblyId ? (
            <Link className="link" to={`/workshop/${revisionId}?row=${encodeURIComponent(r.rowId)}`}>
              {r.rowName}
            </Link>
          ) : (
            <i className="quiet">{t('reviews.rowThatIsGone', { name: r.rowName })}</i>
          )}
        </p>
      )}
      <p>
        <b className="font-semibold">{r.person}</b> <span className="quiet text-sm">{moment(r.madeAt)}</span>: {r.text}
      </p>
      {r.answers.map((a) => (
        <p key={a.id} className="ml-4">
          <b className="font-semibold">{a.person}</b> <span className="quiet text-sm">{moment(a.madeAt)}</span>: {a.text}
        </p>
      ))}
      {r.closedAt && <p className="quiet text-sm">{t('reviews.closedBy', { person: r.closedBy!, when: moment(r.closedAt) })}</p>}
      {mayRemark && (
        <p className="flex gap-4 text-sm">
          {!r.closedAt && (
            <button className="link" aria-expanded={answering} onClick={() => setAnswering(!answering)}>
              {t('reviews.answer')}
            </button>
          )}
          <button className="link" onClick={() => close.mutate({ remarkId: r.id, close: !r.closedAt })}>
            {r.closedAt ? t('reviews.openAgain') : t('reviews.close')}
          </button>
        </p>
      )}
      {answering && (
        <Write
          label={t('reviews.yourAnswer')}
          send={t('reviews.answer')}
          error={answer.error}
          onSend={(text, done) =>
            answer.mutate(
              { remarkId: r.id, text },
              {
                onSuccess: () => {
                  done()
                  setAnswering(false)
                },
              },
            )
          }
        />
      )}
    </li>
  )
}

type WriteProps = { label: string; send: string; error: unknown; onSend: (text: string, done: () => void) => void }

/** A text that is sent by a button, or Ctrl+Enter; what was typed stays until it is stored. */
function Write({ label, send, error, onSend }: WriteProps) {
  const [text, setText] = useState('')
  const post = () => text.trim() !== '' && onSend(text, () => setText(''))
  return (
    <div className="grid gap-1">
      <textarea
        className="textarea min-h-9 w-full"
        rows={1}
        aria-label={label}
        placeholder={label}
        maxLength={2000}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== 'Enter' || !(e.ctrlKey || e.metaKey)) return
          e.preventDefault()
          post()
        }}
      />
      {error != null && (
        <p role="alert" className="fault">
          {sentenceOf(error)}
        </p>
      )}
      {text.trim() !== '' && (
        <button className="btn btn-sm justify-self-start" onClick={post}>
          {send}
        </button>
      )}
    </div>
  )
}
