const two = (n: number) => String(n).padStart(2, '0')

/** A moment on this machine's clock, as lists show it: `2026-11-25 14:06:45`. */
export const momentText = (at: string | number | Date): string => {
  const t = new Date(at)
  if (Number.isNaN(t.getTime())) return '—'
  const date = `${t.getFullYear()}-${two(t.getMonth() + 1)}-${two(t.getDate())}`
  return `${date} ${two(t.getHours())}:${two(t.getMinutes())}:${two(t.getSeconds())}`
}
