/** Saving what is on the screen to a file. */
export function saveBlob(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name.replace(/[^\w.-]+/g, '-').toLowerCase()
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 5000)
}

export const saveText = (text: string, name: string, type: string): void => saveBlob(new Blob([text], { type }), name)

const LOOK = [
  'fill',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'font-family',
  'font-size',
  'font-weight',
  'font-style',
]

/** A drawn SVG as a file of its own: with its size, and the colours and letters that it has on the screen. */
export function svgText(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const from = [svg, ...svg.querySelectorAll<SVGElement>('*')]
  const to = [copy, ...copy.querySelectorAll<SVGElement>('*')]
  from.forEach((element, i) => {
    const look = getComputedStyle(element)
    for (const p of LOOK) to[i]!.style.setProperty(p, look.getPropertyValue(p))
  })
  const box = svg.getBoundingClientRect()
  copy.setAttribute('width', String(box.width))
  copy.setAttribute('height', String(box.height))
  return new XMLSerializer().serializeToString(copy)
}

/** A drawn SVG as a PNG at twice its size. */
export function svgToPng(svg: SVGSVGElement, name: string): void {
  const box = svg.getBoundingClientRect()
  const picture = new Image()
  picture.onload = () => {
    const surface = document.createElement('canvas')
    surface.width = box.width * 2
    surface.height = box.height * 2
    const pen = surface.getContext('2d')!
    pen.fillStyle = getComputedStyle(document.body).backgroundColor
    pen.fillRect(0, 0, surface.width, surface.height)
    pen.drawImage(picture, 0, 0, surface.width, surface.height)
    surface.toBlob((blob) => {
      if (blob) saveBlob(blob, `${name}.png`)
    })
  }
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svgText(svg))}`
}
