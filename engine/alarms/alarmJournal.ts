import { severities } from '#core/alarms/limits'
import { counted } from '#core/text/counted'
import type { AlarmEvent } from '#shared/alarms'
import type { JournalWriter } from '../journal/journal'

const spanMs = 10_000
/** So many lines a span: the list of what became of alarms has all of them. */
const mostTold = 100

/** What becomes of alarms, for the journal: of a flood its beginning, and how many more there were. */
export class AlarmJournal {
  private told = 0
  private left = 0
  private worst = 0
  private spanEnd = 0

  constructor(private journal: JournalWriter) {}

  add(event: AlarmEvent, now = Date.now()) {
    this.tick(now)
    if (this.told < mostTold) {
      this.told++
      return this.tell(event)
    }
    this.left++
    if (event.turn === 'raised') this.worst = Math.max(this.worst, severities.indexOf(event.severity))
  }

  /** Time goes by. */
  tick(now: number) {
    if (now < this.spanEnd) return
    this.tellLeft()
    this.told = 0
    this.spanEnd = now + spanMs
  }

  close() {
    this.tellLeft()
  }

  private tellLeft() {
    if (this.left === 0) return
    this.journal[severities[this.worst]!](
      'Alarms',
      `So much happened at once that ${counted(this.left, 'turn')} of alarms stand only in the list of what became of them.`,
    )
    this.left = this.worst = 0
  }

  private tell({ path, text, severity, turn, limit, who, value, comment }: AlarmEvent) {
    const { journal } = this
    const said = comment === '' ? '' : `: ${comment}`
    if (turn === 'raised') journal[severity](path, text)
    else if (turn === 'over') journal.note(path, `${limit} is over, ${value}.`)
    else if (turn === 'acknowledged') journal.note(path, `${who} saw ${limit}${said}`)
    else if (turn === 'commented') journal.note(path, `${who} on ${limit}${said}`)
    else journal.note(path, `${limit} is no alarm any more: its limit, or its tag, is gone.`)
  }
}
