/** Keys in a list: arrows move between rows, `n` makes a new one. */
export const useListKeys = (newPath: () => string) => {
  const rows = () => [...document.querySelectorAll<HTMLElement>('tr.opens')]
  const press = (event: KeyboardEvent) => {
    const target = event.target as HTMLElement
    if (
      ['INPUT', 'TEXTAREA'].includes(target.tagName) ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      document.querySelector('.v-overlay--active')
    )
      return
    if (event.key === 'n') return void navigateTo(newPath())
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (step === undefined) return
    const all = rows()
    const at = all.indexOf(document.activeElement as HTMLElement)
    all[Math.max(0, Math.min(all.length - 1, at + step))]?.focus()
    event.preventDefault()
  }
  onMounted(() => window.addEventListener('keydown', press))
  onUnmounted(() => window.removeEventListener('keydown', press))
}
