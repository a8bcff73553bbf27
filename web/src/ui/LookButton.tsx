import { switchLook } from '../state/look'

export function LookButton() {
  return (
    <button className="tool" onClick={switchLook} aria-label="Light or dark">
      ◐
    </button>
  )
}
