import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { createReadStream, existsSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'

/** This form of a backup; another one is made by another version. */
const form = 1

/**
 * @typedef {object} Manifest
 * @property {number} form
 * @property {string} version
 * @property {string} made
 * @property {string} site
 * @property {number} revision
 * @property {{ name: string, bytes: number, sha256: string }[]} files
 * @property {string[]} leftOut
 */

/** A folder as one file (tar), with a digest of each of its files. @param {string} folder @param {string} file @param {Omit<Manifest, 'form' | 'files'>} facts */
export const pack = async (folder, file, facts) => {
  const names = filesBelow(folder).sort()
  const files = []
  for (const name of names) files.push({ name, bytes: statSync(join(folder, name)).size, sha256: await digest(join(folder, name)) })
  writeFileSync(join(folder, 'manifest.json'), `${JSON.stringify({ form, ...facts, files }, null, 2)}\n`)
  tar(['-cf', `${file}.new`, '-C', folder, 'manifest.json', ...names])
  renameSync(`${file}.new`, file)
}

/** Takes one apart, and looks whether all of it is as it was. @param {string} file @param {string} folder @returns {Promise<Manifest>} */
export const unpack = async (file, folder) => {
  if (!existsSync(file)) throw new Error(`There is no file ${file}.`)
  // nothing of it gets out of the folder, and nothing in it is a way out
  tar(['-xf', file, '-C', folder, '--no-same-owner', '--no-same-permissions'])
  for (const name of filesBelow(folder))
    if (!statSync(join(folder, name), { throwIfNoEntry: false })?.isFile()) throw new Error(`${file} is no backup of this application.`)
  const manifest = readManifest(folder, file)
  for (const { name, sha256 } of manifest.files) {
    const path = join(folder, name)
    if (!existsSync(path) || (await digest(path)) !== sha256)
      throw new Error(`“${name}” in ${file} is not as it was when the backup was made.`)
  }
  return manifest
}

/** @param {string} folder @param {string} file @returns {Manifest} */
const readManifest = (folder, file) => {
  try {
    const manifest = JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8'))
    if (manifest.form === form && Array.isArray(manifest.files)) return manifest
  } catch {
    // said below
  }
  throw new Error(`${file} is no backup of this application, or of another version of it.`)
}

/** @param {string[]} args */
const tar = (args) => {
  const { status, stderr, error } = spawnSync('tar', args, { encoding: 'utf8' })
  if (error || status !== 0) throw new Error(`tar: ${error?.message ?? stderr.trim()}`)
}

/** @param {string} folder @param {string} [top] @returns {string[]} */
const filesBelow = (folder, top = folder) =>
  readdirSync(folder, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? filesBelow(join(folder, entry.name), top) : [relative(top, join(folder, entry.name))],
  )

/** @param {string} path @returns {Promise<string>} */
const digest = async (path) => {
  const hash = createHash('sha256')
  for await (const part of createReadStream(path)) hash.update(part)
  return hash.digest('hex')
}

/** @param {string} folder */
export const forget = (folder) => rmSync(folder, { recursive: true, force: true })
