import { folderOf } from '#core/tags/path'
import { shortNamesOf, type ShortNames } from '#core/tags/shortNames'
import { namesOf } from '#shared/outlets/names'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { OutletTag } from '../driver'
import type { Standing, View } from './addressSpace'

/**
 * Everything by its short name, one level deep: `nsu=urn:keen-conduit:names;s=<short name>`. Folders
 * stand beside the tags and show theirs once more, for consumers that take a group and an item.
 */
export class NamesView implements View {
  readonly namespace = 'urn:keen-conduit:names'
  readonly top = 'Short names'
  private names: ShortNames = shortNamesOf([])

  /** @param tags all of the site. */
  take(tags: Iterable<OutletTag>, settings: OpcuaServerSettings['shortNames']) {
    this.names = namesOf(tags, settings)
  }

  standing({ path }: OutletTag): Standing {
    const name = this.names.byPath.get(path)!.name
    return { id: name, name, home: '', also: this.names.byPath.get(folderOf(path))?.name ?? null }
  }
}
