import { Link } from 'react-router'
import { stateOf, type Concession } from './useConcessions'
import { t } from '../../texts'

type Props = {
  concession: Concession
  /** Whether what is on the screen is what it was asked for. */
  isOfThis: boolean
  /** While it is asked for: whether it is shown as it would be, and to show it so or not. */
  look?: { isShown: boolean; toggle: () => void }
  /** Asks for another one, where this is used up. */
  onAskAgain?: () => void
}

/** What is set aside for the configuration on the screen, by whom, until when and for how many. */
export function ConcessionNote({ concession: c, isOfThis, look, onAskAgain }: Props) {
  return (
    <p className="border-l-2 border-warning px-3 py-1">
      <Link className="link font-semibold" to={`/concessions/${c.id}`}>
        {t('concessions.concessionNumber', { number: c.number })}
      </Link>{' '}
      {stateOf(c)}
      {': '}
      {t('concessions.setsAside', {
        rules: c.rules.map((r) => r.mark).join(', '),
        until: c.until,
        quantity: c.quantity,
        used: c.used,
      })}{' '}
      {!isOfThis && (c.state === 'holds' || c.state === 'asked') && <i>{t('concessions.notForThisChange')}</i>}
      {isOfThis && look && (
        <button className="link" aria-pressed={look.isShown} onClick={look.toggle}>
          {look.isShown ? t('concessions.showWithAllRules') : t('concessions.showAsItWouldBe')}
        </button>
      )}
      {isOfThis && onAskAgain && (
        <button className="link" onClick={onAskAgain}>
          {t('concessions.askForMore')}
        </button>
      )}
    </p>
  )
}
