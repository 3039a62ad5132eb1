/** Lines of a picture, told apart on both themes. */
const light = ['#0e5a63', '#b3611f', '#6b5b95', '#a1203f', '#3f7d3a', '#4a6fa5', '#8a6d00', '#5b6770']
const dark = ['#5cb8c2', '#e09a57', '#b9a9e6', '#f0829b', '#86c77f', '#93b6ea', '#d9b84a', '#aab7bc']

export const lineColour = (index: number, isDark: boolean): string => (isDark ? dark : light)[index % light.length]!

/** The first colour that no other line has. */
export const freeColour = (taken: readonly number[]): number => {
  const free = light.findIndex((_, index) => !taken.includes(index))
  return free < 0 ? taken.length % light.length : free
}
