import { createHash, timingSafeEqual } from 'node:crypto'
import {
  StatusCodes,
  UserNameIdentityToken,
  X509IdentityToken,
  type ISessionContext,
  type ServerSession,
  type StatusCode,
  type UserIdentityToken,
} from 'node-opcua'
import type { Secret } from '#core/contracts/secret'
import { FolderRules, type Right } from '#core/outlets/rules'
import { certificateFacts } from '#security/certificateFacts'
import { Attempts, attemptSucceeded, takeAttempt, type Counted } from '#security/attempts'
import { isPassword, pretendToCompare } from '#security/passwords'
import type { Seal } from '#security/seal'
import type { OpcuaServerSettings, OutletUser } from '#shared/outlets/opcuaServer'

/** Who came in, and what that one may do. */
interface Guest {
  name: string
  rules: FolderRules
  /** Another text: another guest, though the name may be the same. */
  mark: string
}

type GuestSettings = Pick<OpcuaServerSettings, 'anonymous' | 'users'>

/** Clients as guests: by name and password, by certificate, or nobody in particular; each with rights by folder. */
export class Guests {
  private settings: GuestSettings
  private anonymous: Guest
  private byName = new Map<string, Guest>()
  private byFingerprint = new Map<string, Guest>()
  private known = new WeakMap<object, Guest | null>()

  private byNameAndAddress = new Attempts({ free: 5, longestMs: 60_000 })
  private byAddress = new Attempts({ free: 40, longestMs: 30_000 })

  /** @param slowed is told where somebody guesses too often. */
  constructor(
    settings: GuestSettings,
    private seal: Seal,
    private slowed: (from: string) => void = () => {},
  ) {
    this.settings = settings
    this.anonymous = guestOf('anonymous', settings.anonymous, '')
    this.take(settings)
  }

  take(settings: GuestSettings) {
    this.settings = settings
    this.anonymous = guestOf('anonymous', settings.anonymous, '')
    this.byName.clear()
    this.byFingerprint.clear()
    this.known = new WeakMap()
    for (const user of settings.users) {
      const guest = guestOf(user.name, user.rules, JSON.stringify(user.key))
      if (user.key.kind === 'password') this.byName.set(user.name, guest)
      else this.byFingerprint.set(fingerprintOf(user.key.certificate), guest)
    }
  }

  /**
   * Whether name and password belong together. Guesses are slowed down by name and address together, and
   * by address: whoever guesses keeps nobody out who comes from elsewhere.
   */
  async isUser(name: string, password: string, from: string): Promise<boolean> {
    const attempt: Counted = { own: [this.byNameAndAddress, `${name} ${from}`], shared: [[this.byAddress, from]] }
    if (takeAttempt(attempt) > 0) {
      this.slowed(from)
      return false
    }
    const user = this.settings.users.find((candidate) => candidate.name === name)
    const right = user?.key.kind === 'password' ? await this.fits(user.key.password, password) : await pretend(password)
    if (right) attemptSucceeded(attempt)
    return right
  }

  /** Whether somebody may come in by this certificate. That the key is theirs, is proven elsewhere. */
  statusOf(der: Buffer): StatusCode {
    if (!this.byFingerprint.has(fingerprintOf(der))) return StatusCodes.BadIdentityTokenRejected
    const { validFrom, validTo } = certificateFacts(der)
    return Date.now() >= validFrom && Date.now() <= validTo ? StatusCodes.Good : StatusCodes.BadCertificateTimeInvalid
  }

  /** Null: nobody who is, or still is, let in. */
  guestWith(token: UserIdentityToken | undefined): Guest | null {
    if (!token) return null
    const known = this.known.get(token)
    if (known !== undefined) return known
    const found = this.find(token)
    this.known.set(token, found)
    return found
  }

  /** What may be done with a path. The server itself, which carries no session, may do everything. */
  may(context: ISessionContext | null, path: string): Right {
    const session = context?.session as unknown as ServerSession | undefined
    if (!session) return 'write'
    return this.guestWith(session.userIdentityToken)?.rules.at(path) ?? 'nothing'
  }

  /** Whether a folder shows. */
  opens(context: ISessionContext | null, folder: string): boolean {
    const session = context?.session as unknown as ServerSession | undefined
    return !session || (this.guestWith(session.userIdentityToken)?.rules.opens(folder) ?? false)
  }

  /** Passwords are kept as hashes; those of earlier versions are sealed until their outlet is saved again. */
  private async fits(secret: Secret, password: string): Promise<boolean> {
    if ('hashed' in secret) return isPassword(password, secret.hashed)
    const expected = 'plain' in secret ? secret.plain : this.opened(secret)
    return timingSafeEqual(digest(password), digest(expected ?? 'of nobody')) && expected !== null
  }

  /** A secret that was sealed elsewhere lets nobody in. */
  private opened(secret: Secret): string | null {
    if (!('sealed' in secret)) return null
    try {
      return this.seal.open(secret.sealed)
    } catch {
      return null
    }
  }

  private find(token: UserIdentityToken): Guest | null {
    if (token instanceof UserNameIdentityToken) return this.byName.get(token.userName ?? '') ?? null
    if (token instanceof X509IdentityToken) return this.byFingerprint.get(fingerprintOf(token.certificateData)) ?? null
    return this.anonymous
  }
}

const guestOf = (name: string, rules: OutletUser['rules'], key: string): Guest => ({
  name,
  rules: new FolderRules(rules),
  mark: JSON.stringify([name, rules, key]),
})

const digest = (text: string) => createHash('sha256').update(text).digest()

/** A certificate that nobody can read lets nobody in. */
const fingerprintOf = (certificate: Buffer | string): string => {
  try {
    return certificateFacts(certificate).fingerprint
  } catch {
    return 'unreadable'
  }
}

const pretend = async (password: string) => {
  await pretendToCompare(password)
  return false
}
