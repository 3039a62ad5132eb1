import { createHash, timingSafeEqual } from 'node:crypto'
import type { Secret } from '#core/contracts/secret'
import { Attempts, attemptSucceeded, takeAttempt, type Counted } from '#security/attempts'
import { isPassword, pretendToCompare } from '#security/passwords'
import type { Seal } from '#security/seal'
import { steadyNow } from '#pacing/clock'

const toldEveryMs = 60_000

/**
 * Whether name and password of a client belong together. Guesses are slowed down by name and address together, and by
 * address: whoever guesses keeps nobody out who comes from elsewhere.
 */
export class PasswordGate {
  private byNameAndAddress = new Attempts({ free: 5, longestMs: 60_000 })
  private byAddress = new Attempts({ free: 40, longestMs: 30_000 })
  private toldAt = 0

  /** @param tell takes where somebody guesses too often; once in a while, so that it does not fill the journal, too. */
  constructor(
    private seal: Seal,
    private tell: (problem: string) => void = () => {},
  ) {}

  /** @param secret null: nobody goes by this name; that takes as long as a wrong password. */
  async opens(secret: Secret | null, name: string, password: string, from: string): Promise<boolean> {
    const attempt: Counted = { own: [this.byNameAndAddress, `${name} ${from}`], shared: [[this.byAddress, from]] }
    if (takeAttempt(attempt) > 0) {
      this.slowed(from)
      return false
    }
    const right = secret ? await this.fits(secret, password) : await pretend(password)
    if (right) attemptSucceeded(attempt)
    return right
  }

  private slowed(from: string) {
    if (steadyNow() - this.toldAt < toldEveryMs) return
    this.toldAt = steadyNow()
    this.tell(`Names and passwords from ${from} are wrong again and again; they are taken slowly now.`)
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
}

const digest = (text: string) => createHash('sha256').update(text).digest()

const pretend = async (password: string) => {
  await pretendToCompare(password)
  return false
}
