import type { Duplex } from 'node:stream'
import { exception } from '#core/modbus/exceptions'
import type { Cut, Frame } from '#core/modbus/frame'
import { framesOf } from '#core/modbus/framing'
import type { Framing } from '#core/modbus/framings'
import { encodeException } from '#core/modbus/pdu'
import { duration } from '#core/text/duration'
import { TimedCutter } from '../../serial/timedCutter'
import { askedText, type Answer, type Asking } from './answering'

/** So much may lie unsent before nothing more is taken from who does not read. */
const mostUnsent = 256 * 1024
/** A line without a byte for so long has no frame under way. */
const silentMs = 50
const mostNoise = 4096

interface CallerWays {
  framing: Framing
  /** Who asks, by the settings of now. */
  asking(): Asking
  /** Of frames that name none that is here. */
  hasUnit(unit: number): boolean
  answer(unit: number, pdu: Buffer, asking: Asking): Answer | Promise<Answer>
  mostWaiting(): number
  refused(text: string): void
  answered(): void
  /** What one request came to. @param answer null: nothing is answered */
  called(frame: Frame, answer: Answer | null, ms: number, asking: Asking): void
}

/**
 * One connection on which requests come. They are answered in the order in which they came, one after the other, as a
 * line has it; more than may wait are left in the socket until there is room.
 */
export class Caller {
  private cutter: TimedCutter
  private queue: Frame[] = []
  private isWorking = false
  private last: { frame: Frame; at: number; ms: number; exception: number | null } | null = null
  private noise = 0
  readonly since = Date.now()
  requests = 0
  refusal: { text: string; at: number } | null = null

  constructor(
    private stream: Duplex,
    private ways: CallerWays,
  ) {
    const { framing } = ways
    this.cutter = new TimedCutter(framesOf(framing).cutter('request'), framing === 'tcp' ? 0 : silentMs, (cut) => this.take(cut))
    stream.on('data', (chunk: Buffer) => this.cutter.push(chunk))
    stream.on('drain', () => this.resume())
    stream.on('close', () => this.cutter.close())
  }

  get lastAskedAt() {
    return this.last?.at ?? this.since
  }

  /** What it asked last, and what it got. */
  get lastText(): { asked: string; got: string } {
    if (!this.last) return { asked: '', got: '' }
    const { frame, ms, exception: code } = this.last
    return {
      asked: `${askedText(frame.pdu)} of unit ${frame.unit}`,
      got: code === null ? `answered in ${duration(ms)}` : `exception ${code}`,
    }
  }

  private take({ frames, problem, noise }: Cut) {
    for (const frame of frames) this.queue.push(frame)
    if (problem) {
      this.refuse(`sent what is not Modbus TCP: ${problem}; its connection was closed`)
      return void this.stream.destroy()
    }
    if (noise > 0) this.heardNoise(noise)
    if (this.queue.length > this.ways.mostWaiting()) this.stream.pause()
    if (!this.isWorking) this.work()
  }

  private heardNoise(bytes: number) {
    this.noise += bytes
    this.refuse('sent bytes that are no frame, or whose check does not agree')
    if (this.noise > mostNoise && this.requests === 0) this.stream.destroy()
  }

  /** Reads are answered at once; only writes wait. */
  private work() {
    this.isWorking = true
    let frame = this.queue.shift()
    while (frame) {
      const answer = this.answerTo(frame)
      if (answer instanceof Promise) return void this.finish(frame, answer)
      frame = this.queue.shift()
    }
    this.isWorking = false
    this.resume()
  }

  private async finish(frame: Frame, answer: Promise<Answer | null>) {
    const began = performance.now()
    this.reply(frame, await answer, performance.now() - began)
    this.work()
  }

  /** Null: nothing is answered. */
  private answerTo(frame: Frame): null | Promise<Answer | null> {
    const { framing, hasUnit, answer, asking } = this.ways
    this.requests++
    this.ways.answered()
    const isForAll = framing !== 'tcp' && frame.unit === 0
    if (!isForAll && !hasUnit(frame.unit)) {
      this.reply(frame, framing === 'tcp' ? noUnit(frame) : null, 0)
      return null
    }
    const began = performance.now()
    const who = asking()
    const answered = answer(frame.unit, frame.pdu, who)
    if (answered instanceof Promise)
      return answered
        .catch((error: Error): Answer => ({
          pdu: encodeException(frame.pdu[0]!, exception.deviceFailure),
          refused: `met a fault of ours: ${error.message}`,
        }))
        .then((one) => (isForAll ? { ...one, pdu: noReply } : one))
    this.reply(frame, isForAll ? { ...answered, pdu: noReply } : answered, performance.now() - began, who)
    return null
  }

  private reply(frame: Frame, answer: Answer | null, ms: number, asking = this.ways.asking()) {
    const code = answer && (answer.pdu[0] ?? 0) & 0x80 ? answer.pdu[1]! : null
    this.last = { frame, at: Date.now(), ms, exception: code }
    this.ways.called(frame, answer, ms, asking)
    if (answer?.refused) this.refuse(answer.refused)
    if (!answer || answer.pdu.length === 0 || this.stream.destroyed) return
    this.stream.write(framesOf(this.ways.framing).encode(frame.transaction, frame.unit, answer.pdu))
    if (this.stream.writableLength > mostUnsent) this.stream.pause()
  }

  private resume() {
    if (this.stream.isPaused() && this.queue.length <= this.ways.mostWaiting() && this.stream.writableLength <= mostUnsent)
      this.stream.resume()
  }

  private refuse(text: string) {
    this.refusal = { text, at: Date.now() }
    this.ways.refused(text)
  }
}

/** A request to all units is obeyed, and not answered (MODBUS over Serial Line V1.02, 2.2). */
const noReply = Buffer.alloc(0)

const noUnit = ({ unit, pdu }: Frame): Answer => ({
  pdu: encodeException(pdu[0] ?? 0, exception.gatewayTargetFailed),
  refused: `asked for unit ${unit}, which is not here (exception ${exception.gatewayTargetFailed})`,
})
