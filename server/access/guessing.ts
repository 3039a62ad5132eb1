import type { H3Event } from 'h3'
import { getCookie, getRequestIP, setCookie } from 'h3'
import { Attempts, type Counted } from '#security/attempts'
import { isMarkOf, newMark } from '#security/marks'

/*
 * Strangers are slowed down by name and address together, and mildly by each alone; nobody waits
 * longer than a minute, so that whoever guesses cannot keep the owner of a name out. A browser in which somebody
 * signed in before carries a mark of that name: its attempts count by themselves, whoever else guesses.
 */
const byNameAndAddress = new Attempts({ free: 5, longestMs: 60_000 })
const byName = new Attempts({ free: 20, longestMs: 30_000 })
const byAddress = new Attempts({ free: 40, longestMs: 30_000 })
const byBrowser = new Attempts({ free: 5, longestMs: 15 * 60_000 })
const byPerson = new Attempts({ free: 5, longestMs: 60_000 })

const markCookie = 'conduit-known'
const markDays = 180

export const addressOf = (event: H3Event) => getRequestIP(event) ?? 'unknown'

/** What an attempt to sign in counts among. */
export const signInAttempt = (event: H3Event, name: string): Counted => {
  const key = name.toLowerCase()
  const mark = getCookie(event, markCookie)
  if (mark && isMarkOf(mark, key, secret())) return { own: [byBrowser, `${key} ${mark}`], shared: [] }
  const from = addressOf(event)
  return {
    own: [byNameAndAddress, `${key} ${from}`],
    shared: [
      [byName, key],
      [byAddress, from],
    ],
  }
}

/** What an attempt at one's present password counts among. */
export const passwordAttempt = (personId: number): Counted => ({ own: [byPerson, String(personId)], shared: [] })

/** This browser is known from now on for whoever just signed in. */
export const rememberBrowser = (event: H3Event, name: string) =>
  setCookie(event, markCookie, newMark(name.toLowerCase(), secret()), {
    httpOnly: true,
    sameSite: 'strict',
    path: '/api/session',
    maxAge: markDays * 86_400,
    secure: event.node.req.headers['x-forwarded-proto'] === 'https',
  })

const secret = () => process.env.CONDUIT_SEAL_KEY ?? ''
