import { StatusCodes, type StatusCode } from 'node-opcua'
import { isAcceptable, judge } from '#core/certificates/judge'
import { certificateFacts } from '#security/certificateFacts'
import type { Knock } from '#shared/outlets/opcuaServerStatus'
import type { TrustBook } from '../../trust/trustBook'

const mostKept = 200

/** Clients that showed a certificate nobody decided about, or one that is refused: who, from where, how often. */
export class Knocks {
  private byFingerprint = new Map<string, Knock>()

  constructor(
    private trust: TrustBook,
    private from: (der: Buffer) => string,
    private tell: (knock: Knock) => void,
  ) {}

  /** Judges a certificate as it is shown; remembers it when it is not let in. */
  judge(der: Buffer): StatusCode {
    const verdict = this.trust.verdictOn(der)
    const facts = certificateFacts(der)
    const problems = judge(facts, { now: Date.now(), host: null, applicationUri: null })
    const accepted = verdict.kind === 'trusted' ? verdict.despite : []
    const open = problems.filter((problem) => !isAcceptable(problem) || !accepted.includes(problem.kind))
    if (verdict.kind === 'trusted' && open.length === 0) {
      this.byFingerprint.delete(facts.fingerprint)
      return StatusCodes.Good
    }
    const from = this.from(der)
    const known = this.byFingerprint.get(facts.fingerprint)
    const now = Date.now()
    const knock: Knock = {
      facts,
      problems,
      der: der.toString('base64'),
      from,
      tries: (known?.tries ?? 0) + 1,
      firstAt: known?.firstAt ?? now,
      lastAt: now,
    }
    if (!known && this.byFingerprint.size >= mostKept) this.byFingerprint.delete(this.byFingerprint.keys().next().value!)
    this.byFingerprint.set(facts.fingerprint, knock)
    if (!known) this.tell(knock)
    return open.some(({ kind }) => kind === 'expired' || kind === 'not-yet')
      ? StatusCodes.BadCertificateTimeInvalid
      : StatusCodes.BadCertificateUntrusted
  }

  /** Those that wait for a decision, or came although they were refused; the newest first. */
  waiting(): Knock[] {
    const trusted = ({ der }: Knock) => this.trust.verdictOn(Buffer.from(der, 'base64')).kind !== 'unknown'
    return [...this.byFingerprint.values()].filter((knock) => !trusted(knock)).sort((a, b) => b.lastAt - a.lastAt)
  }
}
