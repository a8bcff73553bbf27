/** A dialog of our own manner, on Chakra's: title, body, actions. */
import { Button, Dialog, Portal } from '@chakra-ui/react'
import type { ReactNode } from 'react'

export function Ask({
  open,
  onClose,
  title,
  children,
  actions,
  wide = false,
  mustChoose = false,
}: {
  open: boolean
  onClose: () => void
  title: string
  children: ReactNode
  actions?: ReactNode
  wide?: boolean
  /** It is left by one of its actions only. */
  mustChoose?: boolean
}) {
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(e) => {
        if (!e.open) onClose()
      }}
      closeOnEscape={!mustChoose}
      closeOnInteractOutside={!mustChoose}
      role={mustChoose ? 'alertdialog' : 'dialog'}
      lazyMount
      unmountOnExit>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content maxW={wide ? '820px' : '560px'}>
            <Dialog.Header>
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.Footer>
              {actions}
              {!mustChoose && (
                <Button variant={'plain' as never} onClick={onClose}>
                  Close
                </Button>
              )}
            </Dialog.Footer>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}
