const names: Record<number, string> = {
  ...{ 1: 'read coils', 2: 'read discrete inputs', 3: 'read holding registers', 4: 'read input registers' },
  ...{ 5: 'write a coil', 6: 'write a register', 7: 'read exception status', 8: 'diagnostics' },
  ...{ 11: 'get event counter', 12: 'get event log', 15: 'write coils', 16: 'write registers', 17: 'report server id' },
  ...{ 20: 'read file record', 21: 'write file record', 22: 'mask a register', 23: 'read and write registers', 24: 'read a queue' },
  43: 'read device identification',
}

/** What a function does (MODBUS Application Protocol V1.1b3, 6). */
export const functionName = (code: number) => names[code] ?? `function ${code}`
