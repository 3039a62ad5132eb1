import { browse, placesInDetail } from '#shared/api/links'
import { useDebounceFn, useIntervalFn } from '@vueuse/core'
import type { Place, PlaceDetails } from '#shared/browse'

export const placeKey = ({ address, member }: Place) => `${address}\n${member}`

const mostAtOnce = 200
const refreshEveryMs = 2500

/** What lies on the far side of a link: children when a place is opened, details of what is on screen, kept fresh. */
export const usePlaces = (linkId: number) => {
  const details = shallowReactive(new Map<string, PlaceDetails>())
  const refused = shallowRef<Refused | null>(null)
  let onScreen: readonly Place[] = []
  let asking = false

  const children = (place: Place) => callApi(browse, { params: { id: linkId }, body: place })

  const ask = async (places: readonly Place[]) => {
    for (let at = 0; at < places.length; at += mostAtOnce) {
      const part = places.slice(at, at + mostAtOnce).map(({ address, member }) => ({ address, member }))
      const found = await callApi(placesInDetail, { params: { id: linkId }, body: { places: part } })
      for (const one of found) details.set(placeKey(one), one)
    }
  }

  const askFor = async (places: readonly Place[]) => {
    if (asking || places.length === 0) return
    asking = true
    try {
      await ask(places)
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
    } finally {
      asking = false
    }
  }

  const askSoon = useDebounceFn(async () => {
    await askFor(onScreen.filter((place) => !details.has(placeKey(place))))
  }, 60)

  /** Told at each scroll; asks for what is not known yet. */
  const show = (places: readonly Place[]) => {
    onScreen = places
    void askSoon()
  }

  useIntervalFn(() => void askFor(onScreen), refreshEveryMs)
  return { details, refused, children, ask, show, of: (place: Place) => details.get(placeKey(place)) }
}
