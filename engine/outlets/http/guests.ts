import { createHash } from 'node:crypto'
import { FolderRules } from '#core/outlets/rules'
import { bearerOf, withoutNameText, type HttpServerSettings, type HttpUser } from '#shared/outlets/httpServer'
import type { PasswordGate } from '../doors/passwordGate'

/** Who asks, and what that one may do. */
export interface HttpGuest {
  name: string
  rules: FolderRules
  /** Another text: another guest, though the name may be the same. */
  mark: string
}

type GuestSettings = Pick<HttpServerSettings, 'anonymous' | 'users'>

const mostKnown = 1000
export const withoutName = withoutNameText

/** Programs as guests: by name and token, or nobody in particular; each with rights by folder. */
export class HttpGuests {
  private users = new Map<string, HttpUser>()
  private byName = new Map<string, HttpGuest>()
  private anonymous!: HttpGuest
  /** What was shown before and was right: comparing with a hash takes long on purpose. */
  private known = new Map<string, HttpGuest>()

  constructor(
    settings: GuestSettings,
    private gate: PasswordGate,
  ) {
    this.take(settings)
  }

  take({ anonymous, users }: GuestSettings) {
    this.known.clear()
    this.anonymous = guestOf(withoutName, anonymous, '')
    this.users = new Map(users.map((user) => [user.name, user]))
    this.byName = new Map(users.map(({ name, rules, token }) => [name, guestOf(name, rules, JSON.stringify(token))]))
  }

  /** The rules of those with a name. */
  all(): FolderRules[] {
    return [...this.byName.values()].map(({ rules }) => rules)
  }

  get nobody(): HttpGuest {
    return this.anonymous
  }

  /** Whether it is a guest by the settings of now, with the same rights. */
  isStill({ name, mark }: HttpGuest): boolean {
    return (name === withoutName ? this.anonymous : this.byName.get(name))?.mark === mark
  }

  /** Who shows this in the Authorization header; null where it is nobody, a promise where it has to be compared first. */
  shown(header: string, from: string): HttpGuest | null | Promise<HttpGuest | null> {
    const key = createHash('sha256').update(header).digest('base64')
    return this.known.get(key) ?? this.compared(header, key, from)
  }

  private async compared(header: string, key: string, from: string): Promise<HttpGuest | null> {
    const shown = basic(header) ?? this.bearer(header)
    if (!shown) return null
    const guest = this.byName.get(shown.name)
    const isRight = await this.gate.opens(this.users.get(shown.name)?.token ?? null, shown.name, shown.token, from)
    // its token may have become another one meanwhile
    if (!isRight || !guest || !this.isStill(guest)) return null
    if (this.known.size >= mostKnown) this.known.delete(this.known.keys().next().value!)
    this.known.set(key, guest)
    return guest
  }

  private bearer(header: string): { name: string; token: string } | null {
    const shown = /^Bearer +(\S+)$/i.exec(header)?.[1]
    if (shown === undefined) return null
    const fitting = [...this.users.keys()].filter((name) => shown.startsWith(bearerOf(name, '')))
    const [name] = fitting.sort((a, b) => b.length - a.length)
    const at = shown.lastIndexOf('.')
    return name === undefined
      ? { name: shown.slice(0, Math.max(0, at)), token: shown.slice(at + 1) }
      : { name, token: shown.slice(bearerOf(name, '').length) }
  }
}

/** RFC 7617. */
const basic = (header: string): { name: string; token: string } | null => {
  const shown = /^Basic +([A-Za-z0-9+/=_-]+)$/i.exec(header)?.[1]
  if (shown === undefined) return null
  const pair = Buffer.from(shown, 'base64').toString('utf8')
  const at = pair.indexOf(':')
  return at < 0 ? null : { name: pair.slice(0, at), token: pair.slice(at + 1) }
}

const guestOf = (name: string, rules: HttpUser['rules'], key: string): HttpGuest => ({
  name,
  rules: new FolderRules(rules),
  mark: JSON.stringify([name, rules, key]),
})
