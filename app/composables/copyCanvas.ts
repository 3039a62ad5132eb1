const lineHeight = 16
const margin = 12

/** Copies a picture with what its lines are called, on the ground that it has on the page. */
export const copyCanvas = async (canvas: HTMLCanvasElement, names: readonly { text: string; colour: string }[]) => {
  const scale = canvas.width / canvas.clientWidth || 1
  const copy = document.createElement('canvas')
  copy.width = canvas.width + 2 * margin * scale
  copy.height = canvas.height + (2 * margin + names.length * lineHeight) * scale
  const context = copy.getContext('2d')!
  const { color, backgroundColor } = getComputedStyle(canvas.closest('.sheet') ?? document.body)
  context.fillStyle = backgroundColor
  context.fillRect(0, 0, copy.width, copy.height)
  context.drawImage(canvas, margin * scale, margin * scale)
  context.font = `${11 * scale}px IBM Plex Sans`
  for (const [i, { text, colour }] of names.entries()) {
    const base = canvas.height + (margin + (i + 0.8) * lineHeight) * scale
    context.fillStyle = colour
    context.fillRect(margin * scale, base - 5 * scale, 18 * scale, 2 * scale)
    context.fillStyle = color
    context.fillText(text, (margin + 26) * scale, base)
  }
  const blob = await new Promise<Blob | null>((resolve) => copy.toBlob(resolve))
  if (blob) await navigator.clipboard.write([new ClipboardItem({ 'image/png': blob })])
}
