import { useState, type FormEvent } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../api/client'
import { FrontCard } from './FrontCard'
import { productName, t } from '../texts'

export function SignInPage({ onDone }: { onDone: (me: Schemas['Me']) => void }) {
  const [fault, setFault] = useState('')
  const [busy, setBusy] = useState(false)

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    setBusy(true)
    setFault('')
    try {
      onDone(await ask(client.POST('/api/session', { body: { name: String(form.get('name')), password: String(form.get('password')) } })))
    } catch (e) {
      setFault(sentenceOf(e))
    } finally {
      setBusy(false)
    }
  }

  return (
    <FrontCard title={productName} tab={t('app.signIn')} sub={t('app.configurationModelsProven')} onSubmit={submit}>
      <label className="grid gap-1">
        {t('app.name')}
        <input name="name" className="input" autoComplete="username" autoFocus required />
      </label>
      <label className="grid gap-1">
        {t('app.password')}
        <input
          name="password"
          type="password"
          className="input"
          autoComplete="current-password"
          required
          aria-invalid={fault !== ''}
          aria-describedby="sign-in-fault"
        />
      </label>
      <p id="sign-in-fault" role="alert" className="fault text-sm empty:hidden">
        {fault}
      </p>
      <button className="btn btn-primary justify-center" disabled={busy}>
        {t('app.signIn')}
      </button>
    </FrontCard>
  )
}
