import type { RefusedAct } from '#shared/outlets/refusedAct'

const mostRemembered = 200
const mostShown = 50

/** What clients wanted and could not have: each once, with how often and when last. */
export class Refusals {
  private acts = new Map<string, RefusedAct>()

  /** @param first is told the first time. */
  constructor(private first: (act: RefusedAct) => void) {}

  note(client: string, text: string) {
    const key = `${client}\n${text}`
    const known = this.acts.get(key)
    this.acts.delete(key)
    const act = { client, text, times: (known?.times ?? 0) + 1, at: Date.now() }
    this.acts.set(key, act)
    if (known) return
    if (this.acts.size > mostRemembered) this.acts.delete(this.acts.keys().next().value!)
    this.first(act)
  }

  /** The last first. */
  list(): RefusedAct[] {
    return [...this.acts.values()].reverse().slice(0, mostShown)
  }

  /** The last of one client. */
  lastOf(client: string): { text: string; at: number } | null {
    const last = [...this.acts.values()].reverse().find((act) => act.client === client)
    return last ? { text: last.text, at: last.at } : null
  }
}
