import { X } from 'lucide-react'
import { useEffect, useRef, type ReactNode } from 'react'
import { t } from '../texts'

/** A sheet laid over the page: closes by Esc, its button, or a click beside it. */
export function Sheet({ title, onClose, children, wide }: { title: string; onClose: () => void; children: ReactNode; wide?: boolean }) {
  const dialog = useRef<HTMLDialogElement>(null)
  const body = useRef<HTMLDivElement>(null)
  useEffect(() => {
    dialog.current?.showModal()
    // To its first field; where it has none, the way out is what the browser chooses.
    const field = body.current?.querySelector<HTMLElement>(
      '[autofocus], input:not([type=hidden], :disabled), select:not(:disabled), textarea:not(:disabled)',
    )
    if (!body.current?.contains(document.activeElement)) field?.focus()
  }, [])
  return (
    <dialog
      ref={dialog}
      aria-label={title}
      onClose={onClose}
      onClick={(e) => e.target === dialog.current && dialog.current.close()}
      className="modal"
    >
      <div className={`modal-box p-0 ${wide ? 'max-w-5xl' : 'max-w-xl'}`}>
        <div className="sticky top-0 z-10 flex items-center justify-between border-b hair bg-base-100 px-5 py-2.5">
          <h2 className="font-semibold">{title}</h2>
          <button className="btn btn-ghost btn-sm" aria-label={t('ui.close')} onClick={() => dialog.current?.close()}>
            <X className="size-4" />
          </button>
        </div>
        <div ref={body} className="p-5">
          {children}
        </div>
      </div>
    </dialog>
  )
}
