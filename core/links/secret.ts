/** A secret on its way: typed just now, kept where it is, or sealed for the database. */
export type Secret = { plain: string } | { kept: true } | { sealed: string }
