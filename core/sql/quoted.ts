import type { SqlDialect } from './settings'

/** A name as a statement has it, whatever is in it (ISO/IEC 9075-2, delimited identifiers). */
export const quotedName = (name: string, dialect: SqlDialect): string =>
  dialect === 'mysql' ? `\`${name.replaceAll('`', '``')}\`` : `"${name.replaceAll('"', '""')}"`
