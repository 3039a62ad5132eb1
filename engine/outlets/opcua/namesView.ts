import { folderOf } from '#core/tags/path'
import { ShortNameBook } from '#core/tags/shortNameBook'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Handle } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import type { Standing, View } from './addressSpace'

type ShortNameSettings = OpcuaServerSettings['shortNames']

/**
 * Everything by its short name, one level deep: `nsu=urn:keen-conduit:names;s=<short name>`. Folders
 * stand beside the tags and show theirs once more, for consumers that take a group and an item.
 */
export class NamesView implements View {
  readonly namespace = 'urn:keen-conduit:names'
  readonly top = 'Short names'
  private book = new ShortNameBook(new Map(), 0)
  private ids = new Map<Handle, number>()

  /** Begins anew, without tags. */
  begin({ most, own }: ShortNameSettings) {
    this.ids.clear()
    this.book = new ShortNameBook(new Map(own.map(({ path, name }) => [path, name])), most)
  }

  /** Takes note of tags of the site, shown or not. Returns whether all names have to be given anew. */
  change(changed: readonly OutletTag[], removed: readonly Handle[]): boolean {
    const gone = removed.map((handle) => this.ids.get(handle)).filter((id) => id !== undefined)
    for (const handle of removed) this.ids.delete(handle)
    for (const { handle, id } of changed) this.ids.set(handle, id)
    return this.book.change(changed, gone)
  }

  get needsAll() {
    return this.book.needsAll
  }

  giveAll(): Generator<void> {
    return this.book.giveAll()
  }

  standing({ path }: OutletTag): Standing {
    const name = this.book.of(path)!.name
    return { id: name, name, home: '', also: this.book.of(folderOf(path))?.name ?? null }
  }
}
