import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { useLocation } from 'react-router'
import { ask, client, sentenceOf } from '../api/client'
import { FrontCard } from './FrontCard'
import { productName, t } from '../texts'

/** Where the link of a letter leads: somebody chooses a password, once. */
export function ChoosePasswordPage() {
  const token = useLocation().hash.slice(1)
  const link = useQuery({
    queryKey: ['password-link', token],
    queryFn: () => ask(client.POST('/api/password/link', { body: { token } })),
    retry: false,
    staleTime: Infinity,
  })
  const [fault, setFault] = useState('')
  const [done, setDone] = useState(false)

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    if (form.get('password') !== form.get('again')) return setFault(t('app.theTwoAreNotTheSame'))
    setFault('')
    try {
      await ask(client.POST('/api/password', { body: { token, password: String(form.get('password')) } }))
      setDone(true)
    } catch (e) {
      setFault(sentenceOf(e))
    }
  }

  return (
    <FrontCard
      title={t('app.yourPassword')}
      tab={t('app.yourPassword')}
      sub={link.data ? t('app.displayWhoSignsInAsName', { display: link.data.display, name: link.data.name }) : productName}
      onSubmit={submit}
    >
      {link.error && <p className="fault">{sentenceOf(link.error)}</p>}
      {done && (
        <p>
          {t('app.itIsKeptEverythingElseThat')}{' '}
          <a className="link" href="/products">
            {t('app.signIn')}
          </a>
        </p>
      )}
      {link.data && !done && (
        <>
          <input name="name" value={link.data.name} autoComplete="username" readOnly hidden />
          <PasswordPair fault={fault} />
          <button className="btn btn-primary justify-center">{t('app.keepIt')}</button>
        </>
      )}
    </FrontCard>
  )
}

/** A new password, twice, and what is wrong with it. */
export const PasswordPair = ({ fault }: { fault: string }) => (
  <>
    <label className="grid gap-1">
      {t('app.newPassword')}
      <input
        name="password"
        type="password"
        className="input"
        autoComplete="new-password"
        required
        aria-invalid={fault !== ''}
        aria-describedby="password-fault"
      />
    </label>
    <label className="grid gap-1">
      {t('app.theSameAgain')}
      <input name="again" type="password" className="input" autoComplete="new-password" required />
    </label>
    <p className="quiet text-sm">{t('app.atLeast12CharactersAFew')}</p>
    <p id="password-fault" role="alert" className="fault text-sm empty:hidden">
      {fault}
    </p>
  </>
)
