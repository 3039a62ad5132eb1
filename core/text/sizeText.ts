/** So many bytes as a person reads it: 1.2 MB. */
export const sizeText = (bytes: number): string => {
  if (bytes < 1000) return `${bytes} B`
  const [scaled, unit] =
    bytes < 1e6 ? [bytes / 1e3, 'kB'] : bytes < 1e9 ? [bytes / 1e6, 'MB'] : bytes < 1e12 ? [bytes / 1e9, 'GB'] : [bytes / 1e12, 'TB']
  return `${scaled < 10 ? scaled.toFixed(1) : Math.round(scaled)} ${unit}`
}
