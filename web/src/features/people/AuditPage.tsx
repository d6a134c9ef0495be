import { locale } from '../../ui/format'
import { useInfiniteQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { PeopleTabs } from './PeopleTabs'
import { t } from '../../texts'

type Happened = Schemas['AuditView']

/** Each event as a sentence without the person who did it. */
const words: Record<Schemas['AuditKind'], (e: Happened) => string> = {
  signedIn: () => t('people.signedIn'),
  signInFailed: (e) => (e.person ? t('people.gaveAWrongPassword') : t('people.gaveANameOrPasswordThat')),
  signInBarred: () => t('people.triedAgainTooSoonAfterWrong'),
  signedOut: () => t('people.signedOut'),
  forbidden: (e) => t('people.askedForWhatTheRoleDoes', { detail: e.detail }),
  personAdded: (e) => t('people.addedSubjectAsDetail', { subject: e.subject, detail: e.detail }),
  roleChanged: (e) => t('people.changedTheRoleOfSubjectDetail', { subject: e.subject, detail: e.detail }),
  personDeactivated: (e) => t('people.stoppedSubjectFromSigningIn', { subject: e.subject }),
  personActivated: (e) => t('people.letSubjectSignInAgain', { subject: e.subject }),
  personChanged: (e) => t('people.changedSubjectDetail', { subject: e.subject, detail: e.detail }),
  linkSent: (e) => t('people.sentSubjectALinkToChoose', { subject: e.subject, detail: e.detail ? `, ${e.detail}` : '' }),
  passwordSet: () => t('people.choseAPasswordThroughALink'),
  passwordChanged: () => t('people.changedThePassword'),
  revisionReleased: (e) => t('people.releasedSubjectDetail', { subject: e.subject, detail: e.detail }),
  releaseAskedFor: (e) => t('people.askedForTheReleaseOf', { subject: e.subject, detail: e.detail }),
  reviewTakenBack: (e) => t('people.tookBackTheReviewOf', { subject: e.subject, detail: e.detail }),
  revisionSentBack: (e) => t('people.sentBack', { subject: e.subject, detail: e.detail }),
  revisionWithdrawn: (e) => t('people.withdrew', { subject: e.subject, detail: e.detail }),
  remarkMade: (e) => t('people.remarkedOn', { subject: e.subject, detail: e.detail }),
  baselineMade: (e) => t('people.madeABaseline', { subject: e.subject }),
  paused: (e) => t('people.paused', { subject: e.subject, detail: e.detail }),
  pauseEnded: (e) => t('people.endedAPause', { subject: e.subject }),
  concessionAskedFor: (e) => t('people.askedForAConcession', { subject: e.subject, detail: e.detail }),
  concessionSigned: (e) => t('people.signedConcession', { subject: e.subject, detail: e.detail }),
  concessionRefused: (e) => t('people.refusedConcession', { subject: e.subject, detail: e.detail }),
  concessionTakenBack: (e) => t('people.tookBackConcession', { subject: e.subject, detail: e.detail }),
  concessionWithdrawn: (e) => t('people.withdrewConcession', { subject: e.subject, detail: e.detail }),
  remarkClosed: (e) => t('people.closedARemarkOn', { subject: e.subject, detail: e.detail }),
}

const warns: Schemas['AuditKind'][] = ['signInFailed', 'signInBarred', 'forbidden']
const moment = new Intl.DateTimeFormat(locale, {
  day: '2-digit',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
})

/** Security events and releases, the latest first. */
export function AuditPage() {
  const [query, setQuery] = useSearchParams()
  const name = query.get('name') ?? ''
  const pages = useInfiniteQuery({
    queryKey: ['audit', name],
    queryFn: ({ signal, pageParam }) =>
      ask(client.GET('/api/audit', { params: { query: { name, ...(pageParam ? { before: pageParam } : {}) } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length >= 200 ? last.at(-1)!.id : undefined),
  })
  const list = pages.data?.pages.flat() ?? []
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock
        title={t('people.whatHappened')}
        sub={t('people.signInsAccountsAndReleasesNothing')}
        cells={[{ label: t('people.shown'), value: list.length }]}
      />
      <PeopleTabs />
      <SearchField label={t('people.signInNameOrProductCode')} value={name} onChange={(n) => setQuery(n ? { name: n } : {}, { replace: true })} />
      {pages.error && <p className="fault">{sentenceOf(pages.error)}</p>}
      {pages.data && list.length === 0 && <p className="quiet">{t('people.nothingIsKnownOfNameGive', { name })}</p>}
      <table className="w-full">
        <thead className="sr-only">
          <tr>
            <th>{t('people.when')}</th>
            <th>{t('people.who')}</th>
            <th>{t('people.what')}</th>
            <th>{t('people.from')}</th>
          </tr>
        </thead>
        <tbody>
          {list.map((e) => (
            <tr key={e.id} className="border-b hair [&>td]:py-1 [&>td]:pr-4">
              <td className="quiet w-48 whitespace-nowrap tabular-nums">{moment.format(new Date(e.at))}</td>
              <td className="w-32 font-semibold">{e.person || <span className="quiet font-normal italic">{t('people.somebody')}</span>}</td>
              <td className={warns.includes(e.kind) ? 'text-warning' : ''}>{words[e.kind](e)}</td>
              <td className="quiet font-mono text-sm">{e.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {pages.hasNextPage && (
        <div>
          <button className="btn" disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
            {t('people.earlier')}
          </button>
        </div>
      )}
    </div>
  )
}
