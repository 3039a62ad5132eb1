/**
 * Loaded into each child before its own code: tells the launcher, again and again, that its event loop
 * turns. A child that hangs cannot.
 */
const everyMs = 1000

if (process.send) setInterval(() => process.connected && process.send?.({ alive: true }, undefined, undefined, () => {}), everyMs).unref()
