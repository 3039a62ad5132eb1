import { drawHistory } from '#shared/api/history'
import type { SeriesPicture } from '#shared/history'
import type { TrendContent } from '#shared/trendSet'

const fastestMs = 1000
const slowestMs = 60_000

/** What is to be drawn over the present span, asked for again as it changes, or as time goes by. */
export const useTrendPictures = (content: () => TrendContent, columns: () => number) => {
  const pictures = shallowRef<ReadonlyMap<number, SeriesPicture>>(new Map())
  const beside = shallowRef<ReadonlyMap<number, SeriesPicture>>(new Map())
  const span = shallowRef(spanNow(content()))
  /** Up to when the picture says something. */
  const until = ref(0)
  const refused = shallowRef<Refused | null>(null)
  const busy = ref(false)
  let turn = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  let gone = false

  const look = async () => {
    clearTimeout(timer)
    const mine = ++turn
    const { series, beside: earlier, span: chosen } = content()
    const next = spanNow(content())
    const ids = series.map(({ id }) => id)
    busy.value = true
    try {
      const ask = (shift: number) => askFor(ids, next.from - shift, next.to - shift, columns())
      const [now, before] = await Promise.all([ask(0), earlier === null ? new Map<number, SeriesPicture>() : ask(earlier)])
      if (mine !== turn) return
      pictures.value = now
      beside.value = before
      span.value = next
      until.value = Math.min(next.to, Date.now())
      refused.value = null
    } catch (error) {
      if (mine === turn) refused.value = asRefused(error)
    } finally {
      if (mine === turn) busy.value = false
      if (mine === turn && !gone && chosen.kind === 'live') timer = setTimeout(() => void look(), pauseFor(next, columns()))
    }
  }
  watch(
    () => JSON.stringify([content().series.map(({ id }) => id), content().span, content().beside]),
    () => void look(),
    { immediate: true },
  )
  onUnmounted(() => {
    gone = true
    turn++
    clearTimeout(timer)
  })
  return { pictures, beside, span, until, refused, busy, look }
}

const spanNow = ({ span }: TrendContent) => {
  const to = span.kind === 'live' ? Date.now() : span.from + span.length
  return { from: to - span.length, to }
}

/** A picture is asked for again once it would look otherwise. */
const pauseFor = ({ from, to }: { from: number; to: number }, columns: number) =>
  Math.min(slowestMs, Math.max(fastestMs, (to - from) / columns))

const askFor = async (series: readonly number[], from: number, to: number, columns: number) => {
  if (series.length === 0) return new Map<number, SeriesPicture>()
  const answer = await callApi(drawHistory, { body: { series: [...series], from, to, columns } })
  return new Map(answer.map((picture) => [picture.id, picture]))
}
