/** Saves text as a file of the browser's. */
export const saveTextFile = (name: string, text: string) => {
  const anchor = Object.assign(document.createElement('a'), {
    href: URL.createObjectURL(new Blob([text], { type: 'text/plain' })),
    download: name,
  })
  anchor.click()
  URL.revokeObjectURL(anchor.href)
}
