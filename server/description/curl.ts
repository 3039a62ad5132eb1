import { isFile, type Operation } from '#shared/api/operation'

/** Text between single quotes, as a POSIX shell reads it. */
const quoted = (text: string) => `'${text.replaceAll("'", `'\\''`)}'`

/** How a shell asks for an operation, with a token. */
export const curlOf = ({ method, path, needs, example, as, body }: Operation): string => {
  const address = `"$CONDUIT/api${path.replace(/\{\w+\}/g, '1')}"`
  const parts = [
    `curl ${as === 'lines' ? '--no-buffer ' : ''}${method === 'GET' ? '' : `-X ${method} `}${address}`,
    ...(needs === 'anyone' ? [] : ['-H "Authorization: Bearer $TOKEN"']),
    ...(isFile(body) ? [`-H 'Content-Type: text/csv'`, '--data-binary @tags.csv'] : []),
    ...(example === undefined ? [] : [`-H 'Content-Type: application/json'`, `-d ${quoted(JSON.stringify(example))}`]),
  ]
  return parts.join(' \\\n  ')
}
