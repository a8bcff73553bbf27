/** Parts are ordered: every decision and part is held in one action, and let go in another. */
import { Button } from '@chakra-ui/react'
import { useState } from 'react'
import { call, type Design } from '../../api'
import { heldBuild, heldFor, letGo } from '../../state/moves'
import { useWorkspace } from '../../state/workspace'

export function Hold() {
  const { design, edit } = useWorkspace('design', 'edit')
  const [reason, setReason] = useState('parts ordered')
  const [said, setSaid] = useState('')
  const why = heldFor(design)
  const hold = () => {
    call<Design['pins']>('hold', { body: { design, reason: reason.trim() || 'parts ordered' } })
      .then((pins) => {
        edit('Held this build', heldBuild(pins))
        setSaid('')
      })
      .catch((e: unknown) => setSaid(e instanceof Error ? e.message : String(e)))
  }
  return (
    <section className="card noprint">
      <h2 className="cap">Hold this build</h2>
      {why === null ? (
        <>
          <p className="quiet">
            Once parts are ordered they should stay: every part and every decided value is pinned where it stands. The
            sheet then judges this build, whatever the brief becomes.
          </p>
          <form
            className="hold"
            onSubmit={(e) => {
              e.preventDefault()
              hold()
            }}>
            <label>
              Why <input value={reason} maxLength={200} onChange={(e) => setReason(e.target.value)} />
            </label>{' '}
            <Button variant={'copper' as never} type="submit">
              Hold this build
            </Button>
          </form>
        </>
      ) : (
        <p>
          Held: {why}. On the line a square in its rhombus marks each stage.{' '}
          <button className="act" onClick={() => edit('Let the build go', letGo)}>
            Let it go
          </button>
        </p>
      )}
      {said && (
        <p role="alert" className="wrong">
          {said}
        </p>
      )}
    </section>
  )
}
