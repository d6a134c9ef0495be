import { Component, type ErrorInfo, type ReactNode } from 'react'
import { t } from '../texts'

/** Where a page meets a fault of its own, it says so and offers a way on; what was stored is stored. */
export class PageFault extends Component<{ children: ReactNode }, { fault: string | null }> {
  override state = { fault: null as string | null }

  static getDerivedStateFromError = (e: unknown) => ({ fault: e instanceof Error ? e.message : String(e) })

  override componentDidCatch(error: unknown, where: ErrorInfo) {
    console.error(error, where.componentStack)
  }

  override render() {
    if (this.state.fault === null) return this.props.children
    return (
      <main className="grid gap-3 p-10">
        <h1 className="text-lg font-semibold">{t('app.thisPageMetAFaultOf')}</h1>
        <p>
          {t('app.whatWasStoredIsStoredTell')} <span className="font-mono text-sm">{this.state.fault}</span>
        </p>
        <p className="flex gap-2">
          <button className="btn btn-primary" onClick={() => location.reload()}>
            {t('app.loadThePageAgain')}
          </button>
          <a className="btn" href="/products">
            {t('app.toTheProducts')}
          </a>
        </p>
      </main>
    )
  }
}
