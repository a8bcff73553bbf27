/** A value that may be typed into: what people write (4k7, 3,3 mH, 45 °C) is read by the server; a mistake is named and kept. */
import { memo, useEffect, useEffectEvent, useId, useImperativeHandle, useRef, useState, type Ref } from 'react'
import { call, Refused } from '../api'
import { outside, shown, text } from '../number'
import { keepWords, keptWords } from '../state/words'

/** A pause in typing after which what stands there is taken, in milliseconds. */
const PAUSE = 700
/** So long it is waited before what nobody read is sent again. */
const AGAIN = 2000

export interface Reader {
  /** Takes what stands in the field now; null where it cannot be read or is not allowed. */
  read: () => Promise<number | null>
}

interface Props {
  label: string
  hideLabel?: boolean
  value: number | null
  unit: string
  /** What is allowed, both ends included; what lies outside is named and not taken. */
  low?: number | null
  high?: number | null
  whole?: boolean
  onValue: (value: number) => void
  className?: string
  id?: string
  note?: string
  /** For a form that must wait until its fields are read. */
  reader?: Ref<Reader>
}

export const Entry = memo(function Entry(props: Props) {
  const {
    label,
    hideLabel = false,
    value,
    unit,
    low,
    high,
    whole = false,
    onValue,
    className = 'num',
    id,
    note,
  } = props
  const own = useId()
  const name = id ?? own
  const s = shown(value, unit, 4)
  const standing = s.unit ? `${s.number} ${s.unit}` : s.number
  // The fields of a design by their keys; a form's own field is gone with the form.
  const lasting = id?.includes('.') ? id : undefined
  const [typed, setTyped] = useState<string | null>(() => (lasting ? keptWords(lasting) : null))
  const [wrong, setWrong] = useState('')
  /** Whether somebody has typed since the field was entered or its value taken: only then is there anything to take. */
  const [edited, setEdited] = useState(typed !== null)
  const field = useRef<HTMLInputElement>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const sequence = useRef(0)
  /** The value on entering the field, for Escape; what has been taken since, with its words. */
  const before = useRef<number | null>(null)
  const taken = useRef<{ words: string; value: number } | null>(null)

  useEffect(() => () => clearTimeout(timer.current), [])
  // What was typed when the page was loaded anew is taken now.
  const begun = useEffectEvent(() => {
    if (edited && typed) void take(typed)
  })
  useEffect(() => begun(), [])
  // Left, the field shows its words until the value has come; then, or when another came, the value itself.
  const [shownFor, setShownFor] = useState(value)
  if (shownFor !== value) {
    setShownFor(value)
    if (!edited && wrong === '') setTyped(null)
  }

  const remember = (words: string | null) => {
    if (lasting) keepWords(lasting, words)
  }
  const take = async (words: string): Promise<number | null> => {
    clearTimeout(timer.current)
    if (words === taken.current?.words) return taken.current.value
    if (words === standing || !words.trim()) return value
    const mine = ++sequence.current
    try {
      const read = (await call<{ value: number }>('parse', { body: { text: words, unit } })).value
      if (mine !== sequence.current) return null
      const bad =
        whole && !Number.isInteger(read) ? `${text(read, unit)} is no whole number` : outside(read, low, high, unit)
      setWrong(bad)
      if (bad) return null
      taken.current = { words, value: read }
      remember(null)
      setEdited(false)
      if (read !== value) onValue(read)
      else if (document.activeElement !== field.current) setTyped(null)
      return read
    } catch (error) {
      if (mine !== sequence.current) return null
      setWrong(error instanceof Error ? error.message : String(error))
      // Nobody there to read it: the words stay, and are sent again.
      if (error instanceof Refused && error.status === 0) timer.current = setTimeout(() => void take(words), AGAIN)
      return null
    }
  }
  useImperativeHandle(props.reader, () => ({ read: () => take(field.current?.value ?? '') }))

  const giveUp = () => {
    clearTimeout(timer.current)
    sequence.current += 1
    setWrong('')
    const former = before.current
    if (taken.current && former !== null && former !== taken.current.value) onValue(former)
    taken.current = null
    remember(null)
    setEdited(false)
    setTyped(null)
    field.current?.blur()
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
        aria-describedby={wrong ? `${name}-wrong` : undefined}
        data-clean={!edited || undefined}
        autoComplete="off"
        spellCheck={false}
        title={note}
        onFocus={(e) => {
          before.current = value
          taken.current = null
          if (!wrong) setTyped(null)
          const input = e.currentTarget
          const words = input.value
          // Unless somebody has been quicker: the first letter typed is not to be typed over.
          requestAnimationFrame(() => input.value === words && input.select())
        }}
        onChange={(e) => {
          const words = e.target.value
          setTyped(words)
          remember(words.trim() ? words : null)
          setEdited(true)
          setWrong('')
          sequence.current += 1
          clearTimeout(timer.current)
          if (words.trim()) timer.current = setTimeout(() => void take(words), PAUSE)
        }}
        onBlur={(e) => {
          const words = e.currentTarget.value
          if (edited && words.trim()) void take(words)
          else if (!wrong && (!words.trim() || value === (taken.current?.value ?? value))) setTyped(null)
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            const input = e.currentTarget
            void take(input.value).then((read) => read !== null && input.select())
          }
          if (e.key === 'Escape') giveUp()
        }}
      />
      {wrong && (
        <span className="wrong" role="alert" id={`${name}-wrong`}>
          {wrong}
        </span>
      )}
    </>
  )
})
