/** A secret on its way: typed just now, kept where it is, or sealed for the database; or, where only a comparison is needed, its hash. */
export type Secret = { plain: string } | { kept: true } | { sealed: string } | { hashed: string }
