import { fillWallPane, showWall } from '#shared/api/displays'
import type { ShownTag, WallShown } from '#shared/displays'
import type { LiveValue } from '#shared/values'
import type { DisplayFeed } from '~/displays/feed'

const everyMs = 1000
/** Without an answer for so long nobody knows what values are now. */
const staleMs = 5000
const askMs = 4000

/** A display by the token of a wall link, asked for every second. */
export const useWall = (token: () => string) => {
  const shown = shallowRef<WallShown | null>(null)
  const refused = shallowRef<Refused | null>(null)
  const at = ref<string | null>(null)
  const heardAt = ref(0)
  const now = ref(Date.now())
  let timer: ReturnType<typeof setTimeout> | undefined
  let gone = false

  const look = async () => {
    clearTimeout(timer)
    try {
      const answer = await callApi(showWall, { body: { token: token(), in: at.value } }, { timeoutMs: askMs })
      shown.value = answer
      if (answer.now !== null) heardAt.value = Date.now()
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
    }
    now.value = Date.now()
    if (!gone) timer = setTimeout(() => void look(), everyMs)
  }
  watch(at, look)
  onMounted(look)
  onUnmounted(() => {
    gone = true
    clearTimeout(timer)
  })

  const tags = computed(() => new Map<string, ShownTag>(shown.value?.tags.map((tag) => [tag.named, tag])))
  const values = computed(() => new Map<number, LiveValue>(shown.value?.values.map((value) => [value.id, value])))
  const isAway = computed(() => now.value - heardAt.value > staleMs)
  const feed: DisplayFeed = {
    tagOf: (named) => tags.value.get(named),
    valueOf: (id) => values.value.get(id),
    now: computed(() => shown.value?.now ?? now.value),
    isAway,
    hasPages: false,
    fill: async (pane, columns) => {
      const wanted = JSON.stringify(pane)
      const index = shown.value?.display.panes.findIndex((one) => JSON.stringify(one) === wanted) ?? -1
      // the display is another one by now, and is drawn anew in a moment
      if (index < 0) return { kind: 'live' }
      return callApi(fillWallPane, { body: { token: token(), in: shown.value!.in, pane: index, columns } })
    },
  }
  return { shown, refused, at, isAway, heardAt, feed }
}
