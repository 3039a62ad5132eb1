/** A span of time as a person reads it: `4 ms`, `1.2 s`, `42 s`, `3 min`, `2 h 5 min`, `4 d 3 h`. */
export const duration = (ms: number): string => {
  if (ms < 1) return `${ms.toFixed(1)} ms`
  if (ms < 1000) return `${Math.round(ms)} ms`
  if (ms < 10_000) return `${Number((ms / 1000).toFixed(1))} s`
  const seconds = Math.round(ms / 1000)
  if (seconds < 120) return `${seconds} s`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min`
  const hours = Math.floor(minutes / 60)
  if (hours < 48) return minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`
  const days = Math.floor(hours / 24)
  return hours % 24 === 0 ? `${days} d` : `${days} d ${hours % 24} h`
}

/** How long ago something was. Below a second nobody can read it anyway. */
export const ageText = (ms: number): string => (ms < 1000 ? 'just now' : `${wholeSeconds(ms)} ago`)

/** A span that grows while it is looked at: in whole seconds, so that it does not flicker. */
export const wholeSeconds = (ms: number): string => (ms < 1000 ? '0 s' : duration(Math.floor(ms / 1000) * 1000))
