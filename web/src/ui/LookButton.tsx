import { memo } from 'react'
import { switchLook } from '../state/look'

export const LookButton = memo(function LookButton() {
  return (
    <button className="tool" onClick={switchLook} aria-label="Light or dark">
      ◐
    </button>
  )
})
