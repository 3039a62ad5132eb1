import { NodeId, NodeIdType, type AddressSpace, type Namespace, type UAObject, type UAVariable } from 'node-opcua'
import { folderOf, nameOf } from '#core/tags/path'
import type { Handle } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import { Slices } from './slices'
import { announce, isSameNode, isSameTag, seenIf, showTag, updateShown, type Ground, type Shown } from './tagVariable'

export const tagNamespace = 'urn:keen-conduit:tags'

/** Where a tag stands in a view. */
export interface Standing {
  /** Identifier of its node. */
  id: string
  name: string
  /** Folders that lead to it, divided by “/”; empty: at the top. */
  home: string
  /** A folder that shows it, too. */
  also: string | null
}

export interface View {
  namespace: string
  /** Name of the folder below Objects that holds the view; null: Objects itself. */
  top: string | null
  standing(tag: OutletTag): Standing
}

/** Folders below Objects as the paths have them, and `nsu=urn:keen-conduit:tags;s=<path>` for each tag. */
export const deepView: View = {
  namespace: tagNamespace,
  top: null,
  standing: ({ path }) => ({ id: path, name: nameOf(path), home: folderOf(path), also: null }),
}

interface Placed extends Shown, Standing {}

/** Tags as nodes. Values are not pushed into them; only nodes with listeners are told of changes. */
export class TagNodes {
  private placed = new Map<Handle, Placed>()
  private waiting = new Map<Handle, OutletTag>()
  private retired = new Map<string, Placed>()
  private folders = new Map<string, UAObject>()
  private namespace: Namespace
  /** Holds the view as long as there is something in it. */
  private top: UAObject | null = null
  private slices = new Slices(() => frugally(this.addressSpace, () => this.step()))

  constructor(
    private addressSpace: AddressSpace,
    private ground: Ground,
    private view: View,
    private tell: (problem: string) => void,
    /** Told of each variable that is made and that goes, by the path of its tag. */
    private heard: { placed(path: string, variable: UAVariable): void; goes(path: string, variable: UAVariable): void } | null = null,
  ) {
    this.namespace = addressSpace.registerNamespace(view.namespace)
  }

  /**
   * Takes note of tags that are new, changed or gone. Those that are gone answer no more from now
   * on; what changed in description, unit, range or access changes in place; the rest is made and
   * removed a few at a time.
   */
  change(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.retire(handle)
    for (const tag of changed) this.consider(tag)
    this.slices.start()
  }

  /** Tags whose place is not known yet are not set out meanwhile. */
  putOff(tags: readonly OutletTag[]) {
    for (const { handle } of tags) this.waiting.delete(handle)
  }

  /** Resolves when every node is as it should be. */
  settled() {
    return this.slices.settled()
  }

  close() {
    this.waiting.clear()
    this.retired.clear()
  }

  /** Tells listeners about changes. Nodes that nobody listens to are not told; they ask. */
  announce(handles: readonly Handle[]) {
    for (const handle of handles) {
      const found = this.placed.get(handle)
      if (found) announce(found, this.ground)
    }
  }

  /** Of the tag of a path, where it stands. */
  variableOf(path: string): UAVariable | null {
    const id = this.nodeId(path)
    return this.retired.has(path) ? null : (this.addressSpace.findNode(id) as UAVariable | null)
  }

  get index() {
    return this.namespace.index
  }

  /** Nodes still to be made or removed. */
  get pending() {
    return this.waiting.size + this.retired.size
  }

  private consider(tag: OutletTag) {
    const found = this.placed.get(tag.handle)
    if (found && isSameNode(found.tag, tag) && isSameStanding(found, this.view.standing(tag))) {
      if (!isSameTag(found.tag, tag)) updateShown(found, tag, this.ground)
      return
    }
    this.retire(tag.handle)
    this.waiting.set(tag.handle, tag)
  }

  private retire(handle: Handle) {
    this.waiting.delete(handle)
    const found = this.placed.get(handle)
    if (!found) return
    found.alive = false
    this.placed.delete(handle)
    this.retired.set(found.id, found)
  }

  /** Removes or makes one node; false when nothing is left to do. */
  private step(): boolean {
    for (const gone of this.retired.values()) {
      this.bury(gone)
      return true
    }
    for (const [handle, tag] of this.waiting) {
      this.waiting.delete(handle)
      this.tryPlace(tag)
      return true
    }
    return false
  }

  private tryPlace(tag: OutletTag) {
    try {
      this.place(tag)
    } catch (error) {
      this.tell(`${tag.path} cannot be shown to clients: ${(error as Error).message}`)
    }
  }

  private place(tag: OutletTag) {
    const standing = this.view.standing(tag)
    const home = this.folder(standing.home, folderOf(tag.path))
    const shown = showTag(this.namespace, this.ground, tag, { home, nodeId: this.nodeId(standing.id), name: standing.name })
    if (standing.also !== null)
      this.folder(standing.also, folderOf(tag.path)).addReference({ referenceType: 'Organizes', nodeId: shown.variable.nodeId })
    this.placed.set(tag.handle, Object.assign(shown, standing))
    this.heard?.placed(tag.path, shown.variable)
  }

  private bury(gone: Placed) {
    this.retired.delete(gone.id)
    if (gone.also !== null) this.folders.get(gone.also)?.removeReference({ referenceType: 'Organizes', nodeId: gone.variable.nodeId })
    this.heard?.goes(gone.tag.path, gone.variable)
    this.addressSpace.deleteNode(gone.variable)
    this.dropEmptyFolders(gone.home)
    if (gone.also !== null) this.dropEmptyFolders(gone.also)
    if (this.top && this.placed.size + this.retired.size === 0) this.dropTop(this.top)
  }

  /** A NodeId object: the text form would take a path with “;” or “=” apart. */
  private nodeId(id: string) {
    return new NodeId(NodeIdType.STRING, id, this.namespace.index)
  }

  /** @param of the folder of the site that it stands for; who may see nothing there does not see it. */
  private folder(path: string, of: string): UAObject {
    if (path === '') return this.topFolder()
    const known = this.folders.get(path)
    if (known) return known
    const folder = this.namespace.addFolder(this.folder(folderOf(path), folderOf(of)), {
      browseName: nameOf(path),
      nodeId: this.nodeId(`${path}/`),
      ...seenIf((context) => this.ground.permits.opens(context, of)),
    })
    this.folders.set(path, folder)
    return folder
  }

  private topFolder(): UAObject {
    const { objects } = this.addressSpace.rootFolder
    const { top } = this.view
    if (top === null) return objects
    return (this.top ??= this.namespace.addFolder(objects, { browseName: top, nodeId: this.nodeId('/') }))
  }

  private dropTop(top: UAObject) {
    this.addressSpace.deleteNode(top)
    this.top = null
  }

  private dropEmptyFolders(path: string) {
    const folder = this.folders.get(path)
    if (!folder || folder.findReferencesAsObject('Organizes', true).length > 0) return
    this.addressSpace.deleteNode(folder)
    this.folders.delete(path)
    this.dropEmptyFolders(folderOf(path))
  }
}

/**
 * The package makes each child a property of its parent's object as well, for programs that walk by dots. Nobody
 * does so here, and it is a third of a node's cost.
 */
export const frugally = <T>(addressSpace: AddressSpace, work: () => T): T => {
  const open = addressSpace as AddressSpace & { isFrugal: boolean }
  open.isFrugal = true
  try {
    return work()
  } finally {
    open.isFrugal = false
  }
}

const isSameStanding = (a: Standing, b: Standing) => a.id === b.id && a.home === b.home && a.also === b.also
