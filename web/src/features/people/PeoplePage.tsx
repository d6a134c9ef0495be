import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Plus } from 'lucide-react'
import { useState, type FormEvent } from 'react'
import { toast } from 'sonner'
import { ask, client, ProblemError, sentenceOf, type Schemas } from '../../api/client'
import { useMe } from '../../session/session'
import { moment } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { TitleBlock } from '../../ui/TitleBlock'
import { PeopleTabs } from './PeopleTabs'
import { t } from '../../texts'

type Person = Schemas['PersonView']
type Role = Schemas['RoleView']

const may: Partial<Record<Schemas['Right'], string>> = {
  edit: t('people.editsModels'),
  editLibrary: t('people.editsTheLibrary'),
  release: t('people.releasesRevisions'),
  configure: t('people.savesConfigurations'),
  generate: t('people.generatesStructures'),
  administer: t('people.managesPeople'),
}

const mayOf = (role: Role | undefined): string =>
  [t('people.readsAndTriesOutEverything'), ...(role?.rights ?? []).flatMap((r) => may[r] ?? [])].join(', ') + '.'

/** Who can sign in, as what. */
export function PeoplePage() {
  const people = useQuery({ queryKey: ['people'], queryFn: ({ signal }) => ask(client.GET('/api/people', { signal })) })
  const [open, setOpen] = useState<Person | 'new' | null>(null)
  const list = people.data?.people ?? []
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock
        title={t('people.people')}
        sub={t('people.whoCanSignInAndWhat')}
        cells={[{ label: t('people.canSignIn'), value: list.filter((p) => p.active).length }]}
        actions={
          <button className="btn btn-primary" onClick={() => setOpen('new')} disabled={!people.data}>
            <Plus className="size-4" /> {t('people.addSomebody')}
          </button>
        }
      />
      <PeopleTabs />
      {people.error && <p className="fault">{sentenceOf(people.error)}</p>}
      {list.length > 0 && (
        <table className="w-full">
          <thead className="quiet text-left text-sm">
            <tr className="border-b hair [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
              <th>{t('people.name')}</th>
              <th>{t('people.signsInAs')}</th>
              <th>{t('people.role')}</th>
              <th>{t('people.mail')}</th>
              <th>{t('people.lastSignedIn')}</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.map((p) => (
              <tr key={p.name} className={`border-b hair hover:bg-base-200 [&>td]:py-1.5 [&>td]:pr-4 ${p.active ? '' : 'quiet'}`}>
                <td className="font-semibold">{p.display}</td>
                <td className="font-mono text-sm">{p.name}</td>
                <td>{p.role}</td>
                <td>{p.mail || <span className="quiet italic">{t('people.none')}</span>}</td>
                <td className="whitespace-nowrap">
                  {!p.active ? (
                    <span className="italic">{t('people.mayNotSignIn')}</span>
                  ) : p.signedInAt ? (
                    moment(p.signedInAt)
                  ) : (
                    <span className="quiet italic">{p.hasPassword ? t('people.never') : t('people.hasNoPasswordYet')}</span>
                  )}
                </td>
                <td className="text-right">
                  <button className="btn" onClick={() => setOpen(p)} aria-label={t('people.changeDisplay', { display: p.display })}>
                    {t('people.change')}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {open && people.data && <PersonSheet person={open === 'new' ? null : open} roles={people.data.roles} onClose={() => setOpen(null)} />}
    </div>
  )
}

/** Somebody new, or a person to be changed. */
function PersonSheet({ person, roles, onClose }: { person: Person | null; roles: Role[]; onClose: () => void }) {
  const me = useMe()
  const queries = useQueryClient()
  const [role, setRole] = useState(person?.role ?? 'engineer')
  const done = () => void queries.invalidateQueries({ queryKey: ['people'] })
  const path = { path: { name: person?.name ?? '' } }
  const save = useMutation({
    mutationFn: async (form: FormData) => {
      const given = { display: String(form.get('display')), role, mail: String(form.get('mail')) }
      if (person) return await ask(client.PATCH('/api/people/{name}', { params: path, body: given }))
      await ask(client.POST('/api/people', { body: { name: String(form.get('name')), ...given } }))
      return null
    },
    onSuccess: (_, form) => {
      done()
      if (!person) toast(t('people.letterIsOnItsWay', { mail: String(form.get('mail')) }))
      onClose()
    },
  })
  const send = useMutation({
    mutationFn: () => ask(client.POST('/api/people/{name}/link', { params: path })),
    onSuccess: (sent) => toast(t('people.aLinkToChooseANew', { mail: sent.mail })),
  })
  const allow = useMutation({
    mutationFn: (active: boolean) => ask(client.PATCH('/api/people/{name}', { params: path, body: { active } })),
    onSuccess: () => {
      done()
      onClose()
    },
  })
  const error = save.error ?? send.error ?? allow.error
  const pointer = error instanceof ProblemError ? error.problem.pointer : undefined
  const fault = (at: string) => (pointer === at ? <span className="fault text-sm">{sentenceOf(error)}</span> : null)
  return (
    <Sheet title={person ? person.display : t('people.addSomebody2')} onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e: FormEvent<HTMLFormElement>) => {
          e.preventDefault()
          save.mutate(new FormData(e.currentTarget))
        }}
      >
        {!person && (
          <label className="grid gap-1">
            {t('people.signInName')}
            <input
              name="name"
              className="input max-w-60"
              autoFocus
              required
              maxLength={60}
              autoCapitalize="none"
              aria-invalid={pointer === '/name'}
            />
            {fault('/name')}
          </label>
        )}
        <label className="grid gap-1">
          {t('people.name')}
          <input name="display" className="input" required maxLength={100} defaultValue={person?.display} aria-invalid={pointer === '/display'} />
          {fault('/display')}
        </label>
        <label className="grid gap-1">
          {t('people.mail')}
          <input name="mail" className="input" required maxLength={200} defaultValue={person?.mail} aria-invalid={pointer === '/mail'} />
          {fault('/mail')}
        </label>
        <fieldset className="grid gap-1">
          <legend className="mb-1">{t('people.role')}</legend>
          {roles.map((r) => (
            <label key={r.role} className="flex items-baseline gap-2">
              <input type="radio" name="role" className="translate-y-0.5 accent-primary" checked={role === r.role} onChange={() => setRole(r.role)} />
              <span className="w-28 shrink-0">{r.role}</span>
              <span className="quiet text-sm">{mayOf(r)}</span>
            </label>
          ))}
          {fault('/role')}
        </fieldset>
        {person && role !== person.role && (
          <p className="quiet text-sm italic">{t('people.displayIsSignedOutEverywhereAnd', { display: person.display })}</p>
        )}
        {error && !['/name', '/display', '/mail', '/role'].includes(pointer ?? '') && <p className="fault">{sentenceOf(error)}</p>}
        <div className="flex flex-wrap gap-2">
          <button className="btn btn-primary" disabled={save.isPending}>
            {person ? t('people.keepTheChanges') : t('people.addAndSendALink')}
          </button>
          {person?.active && (
            <button type="button" className="btn" disabled={send.isPending} onClick={() => send.mutate()}>
              {t('people.sendALinkForANew')}
            </button>
          )}
          {person && person.name !== me.name && (
            <button type="button" className="btn" disabled={allow.isPending} onClick={() => allow.mutate(!person.active)}>
              {person.active ? t('people.stopFromSigningIn') : t('people.letSignInAgain')}
            </button>
          )}
        </div>
      </form>
    </Sheet>
  )
}
