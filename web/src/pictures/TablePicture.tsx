/** Ways that something may be done, or go wrong, side by side: a mark says how each would do, the one taken stands out. */
import type { Table } from '../api/schema'
import { Mark } from '../ui/Mark'
import { saveText } from '../ui/save'

/** A number and its unit stay on one line. */
const whole = (cell: string) => cell.replace(/(\d) (?=[A-Za-zµΩ°%×])/g, '$1\u00a0')
const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`
const csv = (columns: string[], rows: Table['rows']) =>
  [columns, ...rows.map((r) => [...r.cells, r.verdict])].map((line) => line.map(quoted).join(',')).join('\n')

export function TablePicture({ title, columns, rows }: Pick<Table, 'title' | 'columns' | 'rows'>) {
  if (rows.length === 0) return <p className="quiet">Nothing to list: a figure it needs is unknown.</p>
  const judged = rows.some((r) => r.verdict)
  return (
    <div className="ways" role="region" aria-label={title} tabIndex={0}>
      <table className="table">
        <thead>
          <tr>
            {judged && <th scope="col" aria-label="verdict" />}
            {columns.map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.cells[0]} className={row.chosen ? 'chosen' : undefined}>
              {judged && <td>{row.verdict && <Mark verdict={row.verdict} size={14} />}</td>}
              {row.cells.map((cell, i) =>
                i === 0 ? (
                  <th key={i} scope="row">
                    {whole(cell)}
                    {row.chosen && <span className="quiet"> (taken)</span>}
                  </th>
                ) : (
                  <td key={i}>{whole(cell)}</td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small noprint">
        <button
          className="act"
          onClick={() => saveText(csv([...columns, 'verdict'], rows), `${title}.csv`, 'text/csv')}>
          CSV
        </button>
      </p>
    </div>
  )
}
