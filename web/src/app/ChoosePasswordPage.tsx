import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { useLocation } from 'react-router'
import { ask, client, sentenceOf } from '../api/client'
import { FrontCard } from './FrontCard'

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
    if (form.get('password') !== form.get('again')) return setFault('The two are not the same.')
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
      title="Your password"
      tab="Your password"
      sub={link.data ? `${link.data.display}, who signs in as ${link.data.name}` : 'Juniperfall'}
      onSubmit={submit}
    >
      {link.error && <p className="fault">{sentenceOf(link.error)}</p>}
      {done && (
        <p>
          It is kept. Everything else that was open of you has ended.{' '}
          <a className="link" href="/products">
            Sign in
          </a>
        </p>
      )}
      {link.data && !done && (
        <>
          <input name="name" value={link.data.name} autoComplete="username" readOnly hidden />
          <PasswordPair fault={fault} />
          <button className="act act-main justify-center">Keep it</button>
        </>
      )}
    </FrontCard>
  )
}

/** A new password, twice, and what is wrong with it. */
export const PasswordPair = ({ fault }: { fault: string }) => (
  <>
    <label className="grid gap-1">
      New password
      <input
        name="password"
        type="password"
        className="field"
        autoComplete="new-password"
        required
        aria-invalid={fault !== ''}
        aria-describedby="password-fault"
      />
    </label>
    <label className="grid gap-1">
      The same again
      <input name="again" type="password" className="field" autoComplete="new-password" required />
    </label>
    <p className="quiet text-sm">At least 12 characters; a few words that have nothing to do with each other are easy to keep in mind.</p>
    <p id="password-fault" role="alert" className="fault text-sm empty:hidden">
      {fault}
    </p>
  </>
)
