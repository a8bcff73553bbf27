/** A value that may be typed into: what people write (4k7, 3,3 mH, 45 °C) is read by the server; a mistake is named and kept. */
import { useEffect, useId, useRef, useState } from 'react'
import { call, Refused } from '../api'
import { outside, shown } from '../number'

interface Props {
  label: string
  hideLabel?: boolean
  value: number | null
  unit: string
  /** What is allowed, both ends included; what lies outside is named and not taken. */
  low?: number | null
  high?: number | null
  onValue: (value: number) => void
  className?: string
  id?: string
  note?: string
}

export function Entry(props: Props) {
  const { label, hideLabel = false, value, unit, low, high, onValue, className = 'num', id, note } = props
  const own = useId()
  const name = id ?? own
  const [typed, setTyped] = useState<string | null>(null)
  const [wrong, setWrong] = useState('')
  const field = useRef<HTMLInputElement>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const sequence = useRef(0)
  const s = shown(value, unit, 4)
  const standing = s.unit ? `${s.number} ${s.unit}` : s.number

  useEffect(() => () => clearTimeout(timer.current), [])

  const read = (text: string, wait: number) => {
    clearTimeout(timer.current)
    const mine = ++sequence.current
    timer.current = setTimeout(() => {
      call<{ value: number }>('parse', { body: { text, unit } })
        .then((answer) => {
          if (mine !== sequence.current) return
          const beyond = outside(answer.value, low, high, unit)
          setWrong(beyond)
          if (beyond) return
          onValue(answer.value)
          // Left before it was read: the field goes back to showing the value in its usual form.
          if (document.activeElement !== field.current) setTyped(null)
        })
        .catch((error: unknown) => {
          if (mine === sequence.current)
            setWrong(
              error instanceof Refused && error.status === 422
                ? error.message
                : String(error instanceof Error ? error.message : error),
            )
        })
    }, wait)
  }

  return (
    <>
      <label htmlFor={name} className={hideLabel ? 'sr' : undefined} title={note}>
        {label}
      </label>
      <input
        ref={field}
        id={name}
        className={className}
        value={typed ?? standing}
        aria-invalid={wrong !== ''}
        autoComplete="off"
        spellCheck={false}
        title={note}
        onFocus={(e) => {
          setTyped(standing)
          const input = e.currentTarget
          requestAnimationFrame(() => input.select())
        }}
        onChange={(e) => {
          setTyped(e.target.value)
          if (e.target.value.trim()) read(e.target.value, 12)
        }}
        onBlur={() => {
          if (!wrong) setTyped(null)
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            read(e.currentTarget.value, 0)
            e.currentTarget.blur()
          }
          if (e.key === 'Escape') {
            setWrong('')
            setTyped(null)
            e.currentTarget.blur()
          }
        }}
      />
      {wrong && (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      )}
    </>
  )
}
