import { fault } from '#core/faults/catalogue'
import { mostBytes, unconfirmed } from '#core/bacnet/apdu'
import { bvlc, isSameStation, stationText, type Station } from '#core/bacnet/frames'
import { deviceType } from '#core/bacnet/names/objectTypes'
import { anyInstance } from '#core/bacnet/objectId'
import { prop } from '#core/bacnet/property'
import { parseRange } from '#core/bacnet/range'
import { encodeWhoIs, type IAm, type PropertyRef } from '#core/bacnet/services'
import type { BacnetSettings } from '#core/bacnet/settings'
import { steadyNow } from '#pacing/clock'
import { broadcastOf } from '../../wire/interfaces'
import { resolveName } from '../../wire/resolveName'
import { outcomeFault, patienceOf, readOne, type Send } from './asking'
import type { Registration } from './foreign'
import type { BacnetPort, PortUser } from './port'

/** A device that answered, and what it takes. */
export interface Located {
  instance: number
  station: Station
  /** Bytes of one message that it takes. */
  room: number
  /** Whether it can send long answers in parts. */
  sendsParts: boolean
}

interface Heard extends Located {
  at: number
}

/** What was heard longer ago says nothing about two devices of one number: one may have moved. */
const sameTimeMs = 10_000
/** More than these are noise. */
const mostHeard = 20_000
const mostOfOne = 8
const usualPort = 47_808

/** Where the devices of a link are: at addresses that are known, or wherever they answer from. */
export class Directory {
  private heard = new Map<number, Heard[]>()
  private waiting = new Set<(instance: number) => void>()

  constructor(
    private port: BacnetPort,
    private user: PortUser,
    private settings: BacnetSettings,
    private registration: Registration | null,
  ) {}

  /** Somebody says who it is. */
  iAm({ instance, room, segmentation }: IAm, station: Station) {
    if (this.heard.size >= mostHeard && !this.heard.has(instance)) return
    const others = (this.heard.get(instance) ?? []).filter(
      (one) => !isSameStation(one.station, station) && steadyNow() - one.at < sameTimeMs,
    )
    const sendsParts = segmentation === 'both' || segmentation === 'transmits'
    this.heard.set(instance, [{ instance, station, room, sendsParts, at: steadyNow() }, ...others.slice(0, mostOfOne)])
    for (const hear of this.waiting) hear(instance)
  }

  /** How devices are looked for, in words. */
  get ways(): string {
    const { foreign } = this.settings
    const places = foreign ? [`through ${foreign.host}:${foreign.port}`] : [`broadcast to ${broadcastOf(this.settings)}:${this.askedPort}`]
    const { length } = this.settings.devices
    return [...places, ...(length > 0 ? [`${length} known`] : [])].join(', ')
  }

  /** Everybody in reach, and who is at a known address. Takes as long as an answer may take. */
  async everybody(signal?: AbortSignal): Promise<Located[]> {
    await this.registration?.decided
    this.ask(parseRange(this.settings.ask))
    const known = this.settings.devices.map(({ instance }) => this.locate(instance).catch(() => null))
    await Promise.all([pause(this.settings.patience.answer, signal), ...known])
    return this.all()
  }

  /** Those heard of so far, by their numbers; of two with one number the later. */
  all(): Located[] {
    return [...this.heard.values()].map(([first]) => first!).sort((a, b) => a.instance - b.instance)
  }

  /** Numbers that several devices claim, with the places of all of them. */
  duplicates(): { device: number; places: string[] }[] {
    return [...this.heard]
      .filter(([instance, places]) => places.length > 1 && !this.isKnown(instance))
      .map(([device, places]) => ({ device, places: places.map(({ station }) => stationText(station)) }))
  }

  /** Rejects with a Fault. A device at a known address is asked there, any other wherever it answers from. */
  async locate(instance: number): Promise<Located> {
    const known = this.settings.devices.find((one) => one.instance === instance)
    return known ? this.atAddress(instance, known) : this.anywhere(instance)
  }

  /** What was found before does not count any more. */
  forget(instance: number) {
    this.heard.delete(instance)
  }

  private isKnown(instance: number) {
    return this.settings.devices.some((one) => one.instance === instance)
  }

  private async anywhere(instance: number): Promise<Located> {
    await this.registration?.decided
    const { answer, repeats } = this.settings.patience
    // who answers now counts, not who did before
    this.forget(instance)
    for (let tries = 0; tries <= repeats; tries++) {
      const answered = this.hearsOf(instance, answer)
      this.ask({ low: instance, high: instance })
      if (await answered) return this.onlyOne(instance)
    }
    if (this.registration?.fault) throw this.registration.fault as unknown as Error
    throw fault('bacnet.not-found', { device: instance, ways: this.ways, ms: answer * (repeats + 1) }) as unknown as Error
  }

  /** One that answers at once may be followed by another one of the same number. */
  private async onlyOne(instance: number): Promise<Located> {
    await pause(Math.min(300, this.settings.patience.answer))
    const found = this.heard.get(instance) ?? []
    if (found.length > 1)
      throw fault('bacnet.duplicate', {
        device: instance,
        places: found.map(({ station }) => stationText(station)).join(' and '),
      }) as unknown as Error
    if (!found[0]) throw fault('bacnet.not-found', { device: instance, ways: this.ways, ms: 0 }) as unknown as Error
    return found[0]
  }

  private hearsOf(instance: number, ms: number): Promise<boolean> {
    return new Promise((resolve) => {
      const hear = (heard: number) => {
        if (heard !== instance) return
        end(true)
      }
      const end = (isHeard: boolean) => {
        clearTimeout(timer)
        this.waiting.delete(hear)
        resolve(isHeard)
      }
      const timer = setTimeout(() => end(false), ms)
      this.waiting.add(hear)
    })
  }

  private get askedPort() {
    return this.settings.port || usualPort
  }

  private ask(range: { low: number; high: number } | null) {
    const content = encodeWhoIs(range)
    const { place } = this.registration ?? {}
    if (place) return this.port.tell(this.user, place, bvlc.distribute, unconfirmed.whoIs, content, 'everywhere')
    if (this.registration) return
    const to = { host: broadcastOf(this.settings), port: this.askedPort }
    this.port.tell(this.user, to, bvlc.broadcast, unconfirmed.whoIs, content, 'everywhere')
  }

  /** It says who it is, and what it takes. */
  private async atAddress(instance: number, { host, port }: { host: string; port: number }): Promise<Located> {
    const name = await resolveName(host, port, this.settings.patience.answer)
    if ('fault' in name) throw name.fault as unknown as Error
    const station: Station = { host: name.address, port, behind: null }
    const send: Send = (service, content) => this.port.request(this.user, station, { service, content, ...patienceOf(this.settings) })
    const found = await this.numberAt(send, station, instance)
    if (found !== instance) throw fault('bacnet.other-device', { wanted: instance, place: stationText(station), found }) as unknown as Error
    const room = await numberOf(send, instance, prop.maxApdu)
    const segmentation = await numberOf(send, instance, prop.segmentation)
    const located = { instance, station, room: room ?? mostBytes, sendsParts: segmentation === null ? false : segmentation < 2 }
    this.heard.set(instance, [{ ...located, at: steadyNow() }])
    return located
  }

  /** Some do not answer under the number that stands for any; they know their own. */
  private async numberAt(send: Send, station: Station, instance: number): Promise<number> {
    for (const asked of [anyInstance, instance]) {
      const { outcome, answer } = await readOne(send, { ...ofDevice(asked), property: prop.objectIdentifier })
      if (answer?.ok && answer.values[0]?.tag === 'object') return answer.values[0].value.instance
      const why = outcomeFault(outcome, { device: String(instance), station, what: `device/${instance}` })
      if (why && (outcome.kind === 'silent' || asked === instance)) throw why as unknown as Error
    }
    throw fault('bacnet.malformed', { place: stationText(station), problem: 'it does not say who it is' }) as unknown as Error
  }
}

const ofDevice = (instance: number): Omit<PropertyRef, 'property'> => ({ object: { type: deviceType, instance }, index: null })

const numberOf = async (send: Send, instance: number, property: number): Promise<number | null> => {
  const { answer } = await readOne(send, { ...ofDevice(instance), property })
  const value = answer?.ok ? answer.values[0] : undefined
  return value?.tag === 'unsigned' || value?.tag === 'enumerated' ? Number(value.value) : null
}

const pause = (ms: number, signal?: AbortSignal) =>
  new Promise<void>((resolve) => {
    const timer = setTimeout(resolve, ms)
    signal?.addEventListener('abort', () => {
      clearTimeout(timer)
      resolve()
    })
  })
