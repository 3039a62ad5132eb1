/** @typedef {{ name: string, password: string }} Account */

/** Told once, and kept nowhere. @param {Account} account */
export const tellAccount = ({ name, password }) =>
  console.log(`
  sign in as   ${name}
  password     ${password}   (for once: you choose your own at the first sign-in)
`)
