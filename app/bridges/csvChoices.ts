/** How the cells of CSV files are written, as choices. */
export const delimiters = [
  { value: ',' as const, title: 'comma' },
  { value: ';' as const, title: 'semicolon' },
  { value: 'tab' as const, title: 'tab' },
]
export const decimals = [
  { value: '.' as const, title: '1.5' },
  { value: ',' as const, title: '1,5' },
]
