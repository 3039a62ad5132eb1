/** Nothing but the sign-in is shown to strangers, nor to whoever still has to choose a password. */
export default defineNuxtRouteMiddleware(async (to) => {
  // a wall screen has a right of its own
  if (to.path === '/wall') return undefined
  const session = useSession()
  if (!session.asked) await session.load().catch(() => {})
  const isWelcome = session.who !== null && !session.who.mustChange
  if (to.path === '/sign-in') return isWelcome ? navigateTo(String(to.query.to ?? '/')) : undefined
  if (!isWelcome) return navigateTo({ path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } })
  return undefined
})
