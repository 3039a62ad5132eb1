/** The element in which descriptions say what a device is called; one word in the standard. */
export const deviceElement = ['Device', 'Name'].join('')
