import { duration } from '../text/duration'
import type { Facts } from './facts'

/** How facts are said in causes, one way for all rules. */

/** The host as a person knows it: by its name, and by what that stands for. */
export const hostText = ({ goal, address }: Facts): string => {
  const host = goal?.host ?? 'the far side'
  return address && goal && address !== goal.host ? `${host} (${address})` : host
}

export const portText = ({ goal }: Facts): string => (goal ? `${goal.carries.toUpperCase()} ${goal.port}` : 'its port')

/** Who stands between, where that is known. */
export const betweenText = (facts: Facts): string => {
  const { route } = facts
  if (route?.outcome === 'through a router') return `Between the router ${route.router} and ${hostText(facts)}`
  return `On ${hostText(facts)}`
}

export const workedText = ({ lastGood, now }: Facts): string | null =>
  lastGood == null ? null : `it worked until ${duration(now - lastGood)} ago`

export const routeText = (route: NonNullable<Facts['route']>): string => {
  if (route.outcome === 'this machine') return 'it is this machine'
  if (route.outcome === 'none') return 'none'
  return route.outcome === 'same network' ? `${route.by}, on the same network` : `${route.by}, through ${route.router}`
}

export const changeSaid = ({ changes }: Facts, what: NonNullable<Facts['changes']>[number]['what']): string | null => {
  const change = changes?.find((one) => one.what === what)
  return change ? `${change.before} before, ${change.now} now` : null
}

/** Some of a series of echo requests came back, and some did not. */
export const lossText = ({ echoes }: Facts): string | null =>
  echoes && echoes.answered > 0 && echoes.answered < echoes.sent
    ? `${echoes.sent - echoes.answered} of ${echoes.sent} echo requests were lost`
    : null
