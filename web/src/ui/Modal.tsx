import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'
import { Button } from './Button'

interface Props {
  title: string
  open: boolean
  onClose: () => void
  /** As wide as two pictures side by side. */
  wide?: boolean
  children: ReactNode
}

/** A sheet over the page. */
export function Modal({ title, open, onClose, wide = false, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()} modal={false}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-30 bg-black/55" onPointerDown={onClose} />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-40 max-h-[90vh] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-lg border border-line bg-panel p-5 shadow-2xl ${wide ? 'w-[64rem]' : 'w-[34rem]'}`}
        >
          <div className="mb-4 flex items-center justify-between">
            <Dialog.Title className="text-base font-semibold">{title}</Dialog.Title>
            <Button look="quiet" onClick={onClose}>
              Close
            </Button>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
