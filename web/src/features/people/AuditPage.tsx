import { useInfiniteQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { PeopleTabs } from './PeopleTabs'

type Happened = Schemas['AuditView']

/** Each event as a sentence without the person who did it. */
const words: Record<Schemas['AuditKind'], (e: Happened) => string> = {
  signedIn: () => 'signed in',
  signInFailed: (e) => (e.person ? 'gave a wrong password' : 'gave a name or password that is not right'),
  signInBarred: () => 'tried again too soon after wrong passwords',
  signedOut: () => 'signed out',
  forbidden: (e) => `asked for what the role does not include: ${e.detail}`,
  personAdded: (e) => `added ${e.subject} as ${e.detail}`,
  roleChanged: (e) => `changed the role of ${e.subject}: ${e.detail}`,
  personDeactivated: (e) => `stopped ${e.subject} from signing in`,
  personActivated: (e) => `let ${e.subject} sign in again`,
  personChanged: (e) => `changed ${e.subject}: ${e.detail}`,
  linkSent: (e) => `sent ${e.subject} a link to choose a password${e.detail ? `, ${e.detail}` : ''}`,
  passwordSet: () => 'chose a password through a link',
  passwordChanged: () => 'changed the password',
  revisionReleased: (e) => `released ${e.subject} ${e.detail}`,
}

const warns: Schemas['AuditKind'][] = ['signInFailed', 'signInBarred', 'forbidden']
const moment = new Intl.DateTimeFormat('en-GB', {
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
        title="What happened"
        sub="Sign-ins, accounts and releases. Nothing here can be changed."
        cells={[{ label: 'shown', value: list.length }]}
      />
      <PeopleTabs />
      <SearchField label="Sign-in name or product code" value={name} onChange={(n) => setQuery(n ? { name: n } : {}, { replace: true })} />
      {pages.error && <p className="fault">{sentenceOf(pages.error)}</p>}
      {pages.data && list.length === 0 && <p className="quiet">Nothing is known of “{name}”. Give a whole sign-in name or product code.</p>}
      <table className="w-full">
        <thead className="sr-only">
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>What</th>
            <th>From</th>
          </tr>
        </thead>
        <tbody>
          {list.map((e) => (
            <tr key={e.id} className="border-b hair [&>td]:py-1 [&>td]:pr-4">
              <td className="quiet w-48 whitespace-nowrap tabular-nums">{moment.format(new Date(e.at))}</td>
              <td className="w-32 font-semibold">{e.person || <span className="quiet font-normal italic">somebody</span>}</td>
              <td className={warns.includes(e.kind) ? 'text-warning' : ''}>{words[e.kind](e)}</td>
              <td className="quiet font-mono text-sm">{e.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {pages.hasNextPage && (
        <div>
          <button className="act" disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
            Earlier
          </button>
        </div>
      )}
    </div>
  )
}
