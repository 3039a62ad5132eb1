import { constants } from 'node:fs'
import { lstat, open, readdir, realpath } from 'node:fs/promises'
import { join, sep } from 'node:path'
import type { FoundFile } from '../receiving'

export const isWithin = (path: string, root: string) => path === root || path.startsWith(root.endsWith(sep) ? root : root + sep)

const mostFiles = 20_000

/** Files below a folder that go by a pattern, in which `*` stands for what is within a name. Links of the file system are left out. */
export const filesIn = async (folder: string, pattern: string): Promise<FoundFile[]> => {
  const levels = pattern.split('/')
  const last = levels.pop()!
  let folders = ['']
  for (const level of levels) folders = (await Promise.all(folders.map((way) => entriesOf(folder, way, level, 'folder')))).flat()
  const found: FoundFile[] = []
  for (const way of folders)
    for (const name of await entriesOf(folder, way, last, 'file')) {
      const facts = await lstat(join(folder, name)).catch(() => null)
      if (facts?.isFile()) found.push({ name, size: facts.size, identity: String(facts.ino), changedAt: facts.mtimeMs })
      if (found.length >= mostFiles) return found
    }
  return found
}

const entriesOf = async (folder: string, way: string, level: string, kind: 'file' | 'folder'): Promise<string[]> => {
  const entries = await readdir(join(folder, way), { withFileTypes: true }).catch((error: NodeJS.ErrnoException) => {
    // the folder of the link itself is missed aloud
    if (way !== '' && (error.code === 'ENOENT' || error.code === 'ENOTDIR')) return []
    throw error
  })
  const matches = matcherOf(level)
  return entries
    .filter((entry) => (kind === 'file' ? entry.isFile() : entry.isDirectory()) && matches(entry.name))
    .map(({ name }) => (way === '' ? name : `${way}/${name}`))
    .sort()
}

const matcherOf = (level: string) => {
  const pattern = level
    .split('*')
    .map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
    .join('.*')
  const test = new RegExp(`^${pattern}$`, 's')
  // names that begin with a dot are somebody's own
  return (name: string) => (level.startsWith('.') || !name.startsWith('.')) && test.test(name)
}

/** Some bytes of a file, as many as there are; fewer than asked for where it ends. */
export const bytesOf = async (folder: string, name: string, from: number, most: number): Promise<Uint8Array> => {
  const way = join(folder, name)
  if (!isWithin(await realpath(way), await realpath(folder))) throw Object.assign(new Error('it leads out'), { code: 'ELOOP' })
  const handle = await open(way, constants.O_RDONLY | constants.O_NOFOLLOW)
  try {
    const bytes = Buffer.alloc(most)
    let read = 0
    while (read < most) {
      const { bytesRead } = await handle.read(bytes, read, most - read, from + read)
      if (bytesRead === 0) break
      read += bytesRead
    }
    return bytes.subarray(0, read)
  } finally {
    await handle.close()
  }
}
