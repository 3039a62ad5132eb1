import {
  StatusCodes,
  UserNameIdentityToken,
  X509IdentityToken,
  type ISessionContext,
  type ServerSession,
  type StatusCode,
  type UserIdentityToken,
} from 'node-opcua'
import { FolderRules, type Right } from '#core/outlets/rules'
import { certificateFacts } from '#security/certificateFacts'
import type { Seal } from '#security/seal'
import type { OpcuaServerSettings, OutletUser } from '#shared/outlets/opcuaServer'
import { PasswordGate } from '../doors/passwordGate'

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

  private gate: PasswordGate

  /** @param slowed is told where somebody guesses too often. */
  constructor(settings: GuestSettings, seal: Seal, slowed: (problem: string) => void = () => {}) {
    this.gate = new PasswordGate(seal, slowed)
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

  /** Whether name and password belong together. */
  isUser(name: string, password: string, from: string): Promise<boolean> {
    const user = this.settings.users.find((candidate) => candidate.name === name)
    return this.gate.opens(user?.key.kind === 'password' ? user.key.password : null, name, password, from)
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
    const session = sessionOf(context)
    if (!session) return 'write'
    return this.guestWith(session.userIdentityToken)?.rules.at(path) ?? 'nothing'
  }

  /** Whether a folder shows. */
  opens(context: ISessionContext | null, folder: string): boolean {
    const session = sessionOf(context)
    return !session || (this.guestWith(session.userIdentityToken)?.rules.opens(folder) ?? false)
  }

  private find(token: UserIdentityToken): Guest | null {
    if (token instanceof UserNameIdentityToken) return this.byName.get(token.userName ?? '') ?? null
    if (token instanceof X509IdentityToken) return this.byFingerprint.get(fingerprintOf(token.certificateData)) ?? null
    return this.anonymous
  }
}

/** The session of a client; the server itself has none. */
export const sessionOf = (context: ISessionContext | null) => context?.session as unknown as ServerSession | undefined

const guestOf = (name: string, rules: OutletUser['rules'], key: string): Guest => ({
  name,
  rules: new FolderRules(rules),
  mark: JSON.stringify([name, rules, key]),
})

/** A certificate that nobody can read lets nobody in. */
const fingerprintOf = (certificate: Buffer | string): string => {
  try {
    return certificateFacts(certificate).fingerprint
  } catch {
    return 'unreadable'
  }
}
