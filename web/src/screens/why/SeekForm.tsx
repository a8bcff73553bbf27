/** Making a figure equal to a wanted value by moving one given; where it jumps, both sides are offered. */
import { Button } from '@chakra-ui/react'
import { useState } from 'react'
import { call, type Sought, type WhyTold } from '../../api'
import { text } from '../../number'
import { placeTitle } from '../../state/figures'
import { given } from '../../state/moves'
import { useSelected } from '../../state/sheet'
import { useWorkspace } from '../../state/workspace'

interface Props {
  why: WhyTold
  unit: string
  corner: string
  /** The given that moves it most, if that is known. */
  best: string | undefined
  done: () => void
}

export function SeekForm({ why, unit, corner, best, done }: Props) {
  const meta = useSelected((s) => s.meta)
  const { design, edit } = useWorkspace('design', 'edit')
  const [wanted, setWanted] = useState('')
  const [move, setMove] = useState(best && why.movable.some((m) => m.key === best) ? best : why.movable[0]!.key)
  const [found, setFound] = useState<Sought | null>(null)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const moveUnit = meta.figures[move]?.unit ?? ''
  const seek = () => {
    setBusy(true)
    setWrong('')
    call<Sought>('seek', { body: { design, key: why.key, corner, wanted, move } })
      .then(setFound)
      .catch((e: unknown) => {
        setFound(null)
        setWrong(e instanceof Error ? e.message : String(e))
      })
      .finally(() => setBusy(false))
  }
  const take = (v: number) => {
    edit(`${meta.figures[move]?.title} to ${text(v, moveUnit, 4)}`, given(move, Number(v.toPrecision(6))))
    done()
  }
  return (
    <form
      className="fields"
      style={{ margin: '0 0 12px' }}
      onSubmit={(e) => {
        e.preventDefault()
        seek()
      }}>
      <label>
        Make {why.title.toLowerCase()} equal to
        <input
          id="seek-wanted"
          className="num"
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
          placeholder={why.text}
        />
      </label>
      <label>
        by moving
        <select
          id="seek-move"
          value={move}
          onChange={(e) => {
            setMove(e.target.value)
            setFound(null)
          }}>
          {why.movable.map((m) => (
            <option key={m.key} value={m.key}>
              {m.title} · {placeTitle(meta, design.loads, m.place)}
            </option>
          ))}
        </select>
      </label>
      <Button type="submit" variant={'copper' as never} disabled={!wanted.trim() || busy}>
        {busy ? 'Seeking …' : 'Seek'}
      </Button>
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      )}
      {found && <Found found={found} unit={unit} moveUnit={moveUnit} take={take} />}
    </form>
  )
}

interface FoundProps {
  found: Sought
  unit: string
  moveUnit: string
  take: (value: number) => void
}

function Found({ found, unit, moveUnit, take }: FoundProps) {
  const takeIt = (
    <button type="button" className="act" onClick={() => take(found.value)}>
      Take it
    </button>
  )
  if (found.exact)
    return (
      <p data-testid="sought">
        {text(found.value, moveUnit, 4)} does it. {takeIt}
      </p>
    )
  if (found.below && found.above)
    return (
      <p data-testid="sought">
        It jumps there.{' '}
        {[found.below, found.above].map(({ value: v, reaches: r }) => (
          <button type="button" key={v} className="act" onClick={() => take(v)}>
            {text(v, moveUnit, 5)} gives {text(r, unit, 4)}
          </button>
        ))}
      </p>
    )
  return (
    <p data-testid="sought">
      It cannot be reached within the allowed range. Nearest: {text(found.reaches, unit, 4)} at{' '}
      {text(found.value, moveUnit, 4)}. {takeIt}
    </p>
  )
}
