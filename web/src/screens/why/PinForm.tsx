/** Holding a figure at a value of one's own, with the reason. */
import { Button } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import { pinned } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'
import { Entry, type Reader } from '../../ui/Entry'

interface Props {
  figure: string
  title: string
  value: number | null
  unit: string
  whole: boolean
  done: () => void
}

export function PinForm({ figure, title, value, unit, whole, done }: Props) {
  const { edit } = useWorkspace('edit')
  const [wanted, setWanted] = useState(value)
  const reader = useRef<Reader>(null)
  const [reason, setReason] = useState('')
  return (
    <form
      className="fields"
      style={{ margin: '0 0 12px' }}
      onSubmit={(e) => {
        e.preventDefault()
        // What stands in the field counts, read or not yet; what cannot be read is not pinned.
        void reader.current?.read().then((read) => {
          if (read === null) return
          edit(`Pinned ${title}`, pinned(figure, read, reason))
          done()
        })
      }}>
      <div className="row2">
        <Entry
          id="pin-value"
          label="Hold it at"
          value={wanted}
          unit={unit}
          whole={whole}
          onValue={setWanted}
          reader={reader}
        />
      </div>
      <label>
        Because
        <input
          id="pin-reason"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder="part at hand, measured on the bench …"
          maxLength={200}
        />
      </label>
      <Button type="submit" variant={'copper' as never} alignSelf="start">
        Pin
      </Button>
    </form>
  )
}
