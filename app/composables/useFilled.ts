import type { Pane } from '#core/displays/settings'
import type { PaneContent } from '#shared/displays'
import { useFeed } from '~/displays/feed'

/** What a pane shows besides present values, asked for again and again. @param pauseMs between two answers */
export const useFilled = <K extends PaneContent['kind']>(kind: K, pane: () => Pane, columns: () => number, pauseMs: () => number) => {
  const feed = useFeed()
  const content = shallowRef<Extract<PaneContent, { kind: K }> | null>(null)
  const refused = shallowRef<Refused | null>(null)
  let turn = 0
  let timer: ReturnType<typeof setTimeout> | undefined

  const look = async () => {
    clearTimeout(timer)
    const mine = ++turn
    try {
      const answer = await feed.fill(pane(), columns())
      if (mine !== turn) return
      if (answer.kind === kind) content.value = answer as Extract<PaneContent, { kind: K }>
      refused.value = null
    } catch (error) {
      if (mine === turn) refused.value = asRefused(error)
    }
    if (mine === turn) timer = setTimeout(() => void look(), pauseMs())
  }
  watch(() => JSON.stringify(pane().shows), look)
  onMounted(look)
  onUnmounted(() => {
    turn++
    clearTimeout(timer)
  })
  return { content, refused, look }
}
