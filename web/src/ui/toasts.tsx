/** Short words of what was done, with the way back; what they offer can be had elsewhere too, for those who come too late. */
import { Toast, Toaster, createToaster } from '@chakra-ui/react'

export const toaster = createToaster({ placement: 'bottom-start', duration: 12_000, pauseOnPageIdle: true })

/** Says what was done, and how to undo it. */
export function said(title: string, undo?: () => void): void {
  toaster.create({ title, ...(undo && { action: { label: 'Undo', onClick: undo } }) })
}

export function Toasts() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root>
          <Toast.Title>{toast.title}</Toast.Title>
          {toast.action && <Toast.ActionTrigger>{toast.action.label}</Toast.ActionTrigger>}
          <Toast.CloseTrigger aria-label="Close">×</Toast.CloseTrigger>
        </Toast.Root>
      )}
    </Toaster>
  )
}
