import { useState, type FormEvent } from 'react'
import { toast } from 'sonner'
import { ask, client, sentenceOf } from '../api/client'
import { Sheet } from '../ui/Sheet'
import { PasswordPair } from './ChoosePasswordPage'
import { useMe } from '../session/session'
import { t } from '../texts'

/** Changes the password of whoever is signed in. */
export function OwnPassword({ onClose }: { onClose: () => void }) {
  const me = useMe()
  const [fault, setFault] = useState('')

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    if (form.get('password') !== form.get('again')) return setFault(t('app.theTwoAreNotTheSame'))
    try {
      await ask(client.PUT('/api/password', { body: { present: String(form.get('present')), password: String(form.get('password')) } }))
      toast(t('app.yourPasswordIsChangedWhereverElse'))
      onClose()
    } catch (e) {
      setFault(sentenceOf(e))
    }
  }

  return (
    <Sheet title={t('app.displayYourPassword', { display: me.display })} onClose={onClose}>
      <form className="grid gap-3" onSubmit={submit}>
        <input name="name" value={me.name} autoComplete="username" readOnly hidden />
        <label className="grid gap-1">
          {t('app.presentPassword')}
          <input name="present" type="password" className="input" autoComplete="current-password" required autoFocus />
        </label>
        <PasswordPair fault={fault} />
        <div>
          <button className="btn btn-primary">{t('app.changeIt')}</button>
        </div>
      </form>
    </Sheet>
  )
}
