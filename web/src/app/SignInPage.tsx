import { useState, type FormEvent } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../api/client'
import { Mark } from '../ui/Mark'

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
    <main className="grid min-h-full place-items-center bg-base-200 p-6">
      <form onSubmit={submit} className="w-80 border hair bg-base-100">
        <div className="flex items-center gap-3 border-b hair p-5">
          <Mark className="size-9" />
          <div>
            <h1 className="text-lg leading-tight font-semibold">Juniperfall</h1>
            <title>Sign in · Juniperfall</title>
            <p className="quiet text-sm">Configuration models, proven</p>
          </div>
        </div>
        <div className="grid gap-3 p-5">
          <label className="grid gap-1">
            Name
            <input name="name" className="field" autoComplete="username" autoFocus required />
          </label>
          <label className="grid gap-1">
            Password
            <input name="password" type="password" className="field" autoComplete="current-password" required aria-invalid={fault !== ''} aria-describedby="sign-in-fault" />
          </label>
          <p id="sign-in-fault" role="alert" className="fault text-sm empty:hidden">
            {fault}
          </p>
          <button className="act act-main justify-center" disabled={busy}>
            Sign in
          </button>
        </div>
      </form>
    </main>
  )
}
