import { wantedModel, type WantedModel } from '#core/cloud/wanted'
import { Model } from '#core/equipment/model'
import { fault, type Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { ageText, wholeSeconds } from '#core/text/duration'
import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import type { CloudPlatformDetails } from '#shared/outlets/cloudPlatformStatus'
import type { OutletStatus } from '#shared/status'
import { Rate } from '#pacing/rate'
import { KeptQueue } from '../../disk/keptQueue'
import type { Handle } from '../../table/tagTable'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import { checkPlatform } from './check'
import { Delivery } from './delivery'
import { ModelSide } from './modelSide'
import { OpenValues, valuePacking, type KeptParcel } from './parcel'
import type { Platform } from './platform'
import { platformFor } from './platforms/registry'
import { Streams } from './streams'

const megabyte = 1024 * 1024
const memoryBytes = 16 * megabyte

/** A platform that gets the model of the site, and values: what waits for it outlasts restarts. */
export class CloudPlatformSession implements OutletSession<CloudPlatformSettings> {
  private settings: CloudPlatformSettings
  private platform: Platform
  private open = new OpenValues()
  private streams: Streams
  private queue: KeptQueue<KeptParcel>
  private delivery: Delivery
  private modelSide: ModelSide
  private tagIds = new Map<string, number>()
  private paths = new Map<Handle, string>()
  private model: Model | null = null
  private wantedNow: WantedModel | null = null
  private timer: NodeJS.Timeout | null = null
  private adding: Promise<void>
  private rate: Rate
  private closed = false
  private diskProblem: string | null = null

  constructor(private context: OutletContext<CloudPlatformSettings>) {
    const { settings, table, journal, name, folder } = context
    this.settings = settings
    this.platform = this.reach(settings)
    this.queue = new KeptQueue(folder, valuePacking, { disk: settings.sending.kept * megabyte, memory: memoryBytes })
    this.streams = new Streams(
      table,
      settings,
      (path) => this.isOfEquipment(path),
      this.open,
      () => this.hand(),
    )
    const tell = {
      caution: (why: Fault) => journal.caution(name, why.what, why),
      note: (text: string) => journal.note(name, text),
    }
    this.delivery = new Delivery({
      ...{
        queue: this.queue,
        platform: () => this.platform,
        most: () => this.settings.sending.most,
        patience: () => this.settings.way.patience,
      },
      ...{ pathOf: (key: string) => this.streams.pathOf(key), ...tell },
    })
    this.modelSide = new ModelSide({
      ...{ platform: () => this.platform, wanted: () => this.wanted(), settings: () => this.settings.model, ...tell },
    })
    this.rate = new Rate(() => this.delivery.sentSoFar)
    this.adding = this.begin(context.after)
  }

  update(settings: CloudPlatformSettings) {
    const before = this.settings
    this.settings = settings
    this.wantedNow = null
    if (JSON.stringify([before.way, before.site]) !== JSON.stringify([settings.way, settings.site])) {
      const old = this.platform
      this.platform = this.reach(settings)
      this.delivery.tryAgain()
      void old.close().catch(() => {})
    }
    this.streams.take(settings)
    this.pace()
    this.modelSide.changed()
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.forget(handle)
    for (const { handle, id, path } of changed) {
      this.forget(handle)
      this.paths.set(handle, path)
      this.tagIds.set(path, id)
    }
    this.wantedNow = null
    this.streams.setTags(changed, removed)
    this.modelSide.changed()
  }

  /** Equipment or classes are others now. */
  modelChanged() {
    this.model = null
    this.wantedNow = null
    this.streams.decideAgain()
    this.modelSide.changed()
  }

  shows(path: string) {
    return this.streams.shows(path)
  }

  get changesTold() {
    return this.delivery.sentSoFar
  }

  check(entry: number) {
    return entry === 0 ? checkPlatform(this.settings, this.context) : null
  }

  /** What is to be done over there. */
  plan(readAgain: boolean) {
    return readAgain ? this.modelSide.look() : Promise.resolve(this.modelSide.shown())
  }

  applyPlan(seen: string, removing: boolean) {
    return this.modelSide.apply(seen, removing)
  }

  status(now = Date.now()): Omit<OutletStatus, 'id' | 'feeds'> {
    const told = this.delivery.status(now, this.streams.lost)
    const details: CloudPlatformDetails = { kind: 'cloud-platform', model: this.modelSide.status(), ...told }
    const { flow, fault: why } = details.delivery
    const ofModel = this.modelSide.fault
    const { way } = this.settings
    return {
      flow: flow === 'flowing' && (ofModel || details.model.hindered + details.model.refused > 0) ? 'late' : flow,
      sentence: sentenceOf(details, this.streams.count, now),
      fault: why ?? ofModel,
      addresses: [way.kind === 'http' ? way.base : `${way.tls.mode === 'off' ? 'mqtt' : 'mqtts'}://${way.host}:${way.port}`],
      clients: [],
      items: this.streams.count,
      changesPerSecond: this.rate.perSecond,
      details,
    }
  }

  async close() {
    this.closed = true
    if (this.timer) clearInterval(this.timer)
    this.streams.gather(Date.now())
    this.hand()
    this.streams.close()
    this.rate.close()
    await this.modelSide.close()
    await this.adding
    await this.delivery.close()
    await this.platform.close().catch(() => {})
    await this.queue.close()
  }

  private reach({ way, site }: CloudPlatformSettings) {
    const { security, wire } = this.context
    return platformFor(way, { site, security, wire })
  }

  /** What the one before left goes first. */
  private async begin(after: Promise<void> | undefined) {
    await after
    await this.queue.open().catch((error: Error) => this.diskFailed(error))
    if (this.closed) return
    this.pace()
    this.delivery.wake()
  }

  private pace() {
    if (this.timer) clearInterval(this.timer)
    this.timer = setInterval(() => this.gather(), this.settings.sending.every)
    this.timer.unref()
  }

  private gather() {
    this.streams.gather(Date.now())
    this.hand()
  }

  /** Values come to the disk before they go anywhere. */
  private hand() {
    if (this.open.isEmpty) return
    const parcel = this.open.take()
    this.adding = this.adding
      .then(() => this.queue.add(parcel))
      .then(
        () => void (this.diskProblem = null),
        (error: Error) => this.diskFailed(error),
      )
      .then(() => this.makeRoom())
      .then(() => this.delivery.wake())
  }

  private async makeRoom() {
    const { kept } = this.settings.sending
    const room = this.diskProblem === null && this.context.folder !== null ? kept * megabyte : Math.min(kept * megabyte, memoryBytes)
    const before = this.delivery.lost
    const dropped = await this.delivery.makeRoom(room).catch(() => 0)
    if (dropped > 0 && before === 0) {
      const why = fault('cloud.full', { lost: dropped, most: Math.round(room / megabyte) })
      this.context.journal.trouble(this.context.name, why.what, why)
    }
  }

  private diskFailed(error: Error) {
    if (this.diskProblem === null)
      this.context.journal.caution(this.context.name, `What waits for the platform is kept in memory only: ${error.message}`)
    this.diskProblem = error.message
  }

  private forget(handle: Handle) {
    const path = this.paths.get(handle)
    if (path === undefined) return
    this.paths.delete(handle)
    this.tagIds.delete(path)
  }

  private siteModel(): Model {
    const { classes, equipment } = this.context.equipment()
    return (this.model ??= new Model(classes, equipment))
  }

  private isOfEquipment(path: string): boolean {
    const at = path.lastIndexOf('/')
    const equipment = this.siteModel().byPath.get(path.slice(0, Math.max(0, at)))
    if (!equipment) return false
    const name = path.slice(at + 1)
    return this.siteModel()
      .propertiesOf(equipment.class)
      .some((one) => one.name === name && one.made.kind !== 'constant')
  }

  private wanted(): WantedModel {
    return (this.wantedNow ??= wantedModel({
      model: this.siteModel(),
      classIds: new Map([...this.context.equipment().classes].map(({ name, id }) => [name, id])),
      areas: this.settings.model.on ? this.settings.model.areas : [],
      streamOf: (path) => {
        const id = this.tagIds.get(path)
        return id === undefined || !this.streams.shows(path) ? null : `tag-${id}`
      },
    }))
  }
}

const sentenceOf = ({ delivery, model }: CloudPlatformDetails, streams: number, now: number): string => {
  const { fault: why, waiting, behind, lastAt } = delivery
  if (why && waiting > 0)
    return `${why.what} ${counted(waiting, 'value')} ${waiting === 1 ? 'waits' : 'wait'}, the oldest for ${wholeSeconds(behind)}.`
  if (why) return why.what
  if (streams === 0) return model.state === 'off' ? 'Nothing is chosen to go there' : 'No equipment or tag is chosen to go there'
  if (delivery.flow === 'late') return `The platform is behind: the oldest value waits for ${wholeSeconds(behind)}`
  if (model.state === 'differs') return `${counted(streams, 'stream')}; ${counted(model.steps, 'step')} of the model to be done there`
  if (lastAt === null) return `${counted(streams, 'stream')}, nothing taken yet`
  return `${counted(streams, 'stream')}, last taken ${ageText(now - lastAt)}`
}
