export interface Answered {
  status: number
  body: Record<string, unknown> & { fault?: { code: string } }
}

/** An answer, or `lost`: whether it was done, nobody told. */
export type Outcome = Answered | 'lost'

/** A program that uses the web API, and does not give up waiting before the connection does. */
export class Api {
  asked = 0
  lost = 0

  constructor(
    private base: string,
    private cookie: string,
  ) {}

  async call(method: string, path: string, body?: unknown): Promise<Outcome> {
    this.asked++
    try {
      const response = await fetch(`${this.base}/api${path}`, {
        method,
        headers: { cookie: this.cookie, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      return { status: response.status, body: (await response.json()) as Answered['body'] }
    } catch {
      this.lost++
      return 'lost'
    }
  }

  /** Asks until there is an answer of this status. */
  async insist(method: string, path: string, status = 200): Promise<Answered['body']> {
    for (;;) {
      const answer = await this.call(method, path)
      if (answer !== 'lost' && answer.status === status) return answer.body
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
  }
}
