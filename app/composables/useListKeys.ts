/** Keys in a list: arrows move between rows, `n` makes a new one. */
export const useListKeys = (newPath: () => string) => {
  const step = (by: number) => {
    const all = [...document.querySelectorAll<HTMLElement>('tr.opens')]
    const at = all.indexOf(document.activeElement as HTMLElement)
    all[Math.max(0, Math.min(all.length - 1, at + by))]?.focus()
  }
  useRowKeys(() => ({ n: () => navigateTo(newPath()), ArrowDown: () => step(1), ArrowUp: () => step(-1) }))
}
