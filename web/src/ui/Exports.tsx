/** What a drawing can be saved as. */
import { saveText, svgText, svgToPng } from './save'

interface Props {
  name: string
  svg: () => SVGSVGElement | null | undefined
  /** Its numbers as a table, where there are any. */
  csv?: () => string
}

export function Exports({ name, svg, csv }: Props) {
  const drawn = (save: (svg: SVGSVGElement) => void) => () => {
    const found = svg()
    if (found) save(found)
  }
  return (
    <span className="noprint exports">
      <button className="act" onClick={drawn((found) => svgToPng(found, name))}>
        PNG
      </button>{' '}
      ·{' '}
      <button className="act" onClick={drawn((found) => saveText(svgText(found), `${name}.svg`, 'image/svg+xml'))}>
        SVG
      </button>
      {csv && (
        <>
          {' '}
          ·{' '}
          <button className="act" onClick={() => saveText(csv(), `${name}.csv`, 'text/csv')}>
            CSV
          </button>
        </>
      )}
    </span>
  )
}
