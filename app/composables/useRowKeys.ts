/** Whether keys belong to something else now: to a field that is typed into, or to what lies over the page. */
const isElsewhere = ({ target, ctrlKey, metaKey }: KeyboardEvent) =>
  ctrlKey || metaKey || ['INPUT', 'TEXTAREA'].includes((target as HTMLElement).tagName) || isCovered() || isGoing()

/** Enter presses a button that has the focus, and follows a link. */
const isPressing = ({ key, target }: KeyboardEvent) => key === 'Enter' && ['BUTTON', 'A'].includes((target as HTMLElement).tagName)

/**
 * What keys do on a page with a list, by their names; with Alt in front of those that need it. Undefined: nothing at the
 * moment.
 */
export const useRowKeys = (keys: () => Record<string, (() => unknown) | undefined>) => {
  const press = (event: KeyboardEvent) => {
    if (isElsewhere(event) || isPressing(event)) return
    const does = keys()[event.altKey ? `Alt ${event.key}` : event.key]
    if (!does) return
    event.preventDefault()
    does()
  }
  onMounted(() => window.addEventListener('keydown', press))
  onUnmounted(() => window.removeEventListener('keydown', press))
}
