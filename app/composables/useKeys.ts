import { places } from '~/stations'

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))

const secondKeyMs = 1200
let wentAt = 0

/** Whether the next key says where to go: it means nothing else then. */
export const isGoing = () => Date.now() - wentAt < secondKeyMs

/** Whether something lies over the page that keys are for; a notice is nothing of the kind. */
export const isCovered = () => document.querySelector('.v-overlay--active:not(.v-snackbar)') !== null

/** Keys that work everywhere: Ctrl K finds, `g` and a letter goes to a station, `/` filters, `?` shows them all. */
export const useKeys = (actions: { find(): void; explain(): void }) => {
  const press = (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
      event.preventDefault()
      return actions.find()
    }
    if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey || isCovered()) return
    if (isGoing()) {
      wentAt = 0
      const place = places.find(({ key }) => key === event.key)
      if (place) return void navigateTo(place.path)
    }
    if (event.key === 'g') wentAt = Date.now()
    if (event.key === '?') actions.explain()
    if (event.key === '/') {
      const filter = document.querySelector<HTMLInputElement>('[data-filter] input')
      if (filter) event.preventDefault()
      filter?.focus()
    }
  }

  onMounted(() => window.addEventListener('keydown', press))
  onUnmounted(() => window.removeEventListener('keydown', press))
}
