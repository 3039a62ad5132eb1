import { textOf } from '#core/messages/carried'
import type { SetStatements } from '#core/records/statements'
import type { RowStore } from '../links/receiving'

/** Whether a table moved since it was read: by the column that grows with each change, and by how many rows there are. */
export class StampWatch {
  private last: string | null = null

  constructor(private statements: SetStatements) {}

  async hasMoved(store: RowStore): Promise<boolean> {
    const now = await this.look(store)
    const moved = now !== this.last
    this.last = now
    return moved
  }

  private async look(store: RowStore): Promise<string> {
    const { rows } = await store.ask(this.statements.stamp())
    return (rows[0] ?? []).map((value) => textOf(value)).join(' ')
  }
}
