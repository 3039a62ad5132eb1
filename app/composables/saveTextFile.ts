/** Saves what is given as a file of the browser's. */
export const saveFile = (name: string, content: Blob) => {
  const anchor = Object.assign(document.createElement('a'), { href: URL.createObjectURL(content), download: name })
  anchor.click()
  URL.revokeObjectURL(anchor.href)
}

export const saveTextFile = (name: string, text: string) => saveFile(name, new Blob([text], { type: 'text/plain' }))
