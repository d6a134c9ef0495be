import { Component, type ErrorInfo, type ReactNode } from 'react'

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
        <h1 className="text-lg font-semibold">This page met a fault of its own.</h1>
        <p>
          What was stored is stored. Tell an administrator what you did last, and this: <span className="font-mono text-sm">{this.state.fault}</span>
        </p>
        <p className="flex gap-2">
          <button className="act act-main" onClick={() => location.reload()}>
            Load the page again
          </button>
          <a className="act" href="/products">
            To the products
          </a>
        </p>
      </main>
    )
  }
}
