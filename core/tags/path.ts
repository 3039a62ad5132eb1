import { isVisible, visible } from '../text/visible'

/** Tag paths: names divided by `/`, outermost folder first, as in `berth/1/shore/active_power`. */

const maxPathLength = 240

/** Says what is wrong with a path, or null. */
export const pathProblem = (path: string): string | null => {
  if (path === '') return 'A tag needs a path, such as berth/1/shore/active_power.'
  if (path.length > maxPathLength) return `A path has at most ${maxPathLength} characters; this one has ${path.length}.`
  if (path.startsWith('/') || path.endsWith('/')) return 'A path neither starts nor ends with “/”.'
  if (path.includes('//')) return 'A folder between two “/” has no name.'
  if (!isVisible(path)) return `A path shows all of its characters; this one holds ${visible(path)}.`
  if (path.split('/').some((part) => part !== part.trim())) return 'A name neither starts nor ends with a space.'
  return null
}

export const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1)
export const folderOf = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf('/')))

/** Whether a path is a folder, or lies in it at any depth. */
export const isWithin = (path: string, folder: string) => path === folder || path.startsWith(`${folder}/`)

/** A path once what it lies in is called otherwise. */
export const movedPath = (path: string, from: string, to: string) => (isWithin(path, from) ? to + path.slice(from.length) : path)
