import { parentPort } from 'node:worker_threads'
import { createBirpc } from 'birpc'
import { connect } from '#db/connect'
import { databaseUrl } from '../store/database'
import { SiteNotes, type NotesAsked, type NotesPage } from './siteNotes'
import type { PartExperience } from '#core/links/load'
import type { LinkSettings } from '#shared/links/link'
import type { BlockLayout, BlockNow } from '#shared/bench'
import { describedBy, type DescriptionRead, type Documents } from './apiDescription'
import { layoutOf, type BlockAsked } from './blockLayout'
import { descriptionsIn, type DescriptionOfFile } from './deviceDescriptions'
import type { LoadChange } from '#shared/load'
import { loadOf, type Meant } from './siteLoad'
import type { Finding, TagNote } from '#shared/notes'
import type { TagDraft } from '#shared/tags'

/** What the web process may ask of the worker that looks through all tags of the site. */
export interface TagWorkerApi {
  notesOf(ids: readonly number[], findings: readonly Finding[]): Promise<Record<number, TagNote[]>>
  noted(findings: readonly Finding[]): Promise<number[]>
  page(asked: NotesAsked, findings: readonly Finding[]): Promise<NotesPage>
  preview(draft: TagDraft, id: number | null): Promise<TagNote[]>
  layOut(block: BlockNow, asked: BlockAsked): Promise<BlockLayout>
  describe(documents: Documents): Promise<DescriptionRead>
  descriptionsIn(name: string, bytes: Uint8Array, language: string): Promise<DescriptionOfFile[]>
  load(linkId: number, settings: LinkSettings | null, meant: Meant, seen: Record<string, PartExperience>): Promise<LoadChange | null>
}

const serve = (port: NonNullable<typeof parentPort>) => {
  const notes = new SiteNotes(connect(databaseUrl()))
  const current = async <T>(work: () => T): Promise<T> => {
    await notes.follow()
    return work()
  }
  const api: TagWorkerApi = {
    notesOf: (ids, findings) => current(() => notes.notesOf(ids, findings)),
    noted: (findings) => current(() => notes.noted(findings)),
    page: (asked, findings) => current(() => notes.page(asked, findings)),
    preview: (draft, id) => current(() => notes.preview(draft, id)),
    layOut: (block, asked) => Promise.resolve(layoutOf(block, asked)),
    describe: describedBy,
    descriptionsIn: (name, bytes, language) => Promise.resolve(descriptionsIn(name, bytes, language)),
    load: (linkId, settings, meant, seen) =>
      current(() => {
        const link = notes.link(linkId)
        return link ? loadOf(link, settings, notes.tags(), meant, seen) : null
      }),
  }
  createBirpc<object, TagWorkerApi>(api, { post: (data) => port.postMessage(data), on: (hear) => port.on('message', hear) })
}

if (parentPort) serve(parentPort)
