/** `1 request`, `4 requests`, `1,284 tags`. */
export const counted = (count: number, one: string, many = `${one}s`) => `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`
