/** Holding a figure at a value of one's own, with the reason. */
import { Button } from '@chakra-ui/react'
import { useState } from 'react'
import { pinned } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'
import { Entry } from '../../ui/Entry'

interface Props {
  figure: string
  title: string
  value: number | null
  unit: string
  done: () => void
}

export function PinForm({ figure, title, value, unit, done }: Props) {
  const { edit } = useWorkspace()
  const [wanted, setWanted] = useState(value)
  const [reason, setReason] = useState('')
  return (
    <form
      className="fields"
      style={{ margin: '0 0 12px' }}
      onSubmit={(e) => {
        e.preventDefault()
        if (wanted !== null) edit(`Pinned ${title}`, pinned(figure, wanted, reason))
        done()
      }}>
      <div className="row2">
        <Entry id="pin-value" label="Hold it at" value={wanted} unit={unit} onValue={setWanted} />
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
