declare module 'swagger-ui-dist/swagger-ui-es-bundle.js' {
  interface Explorer {
    specActions: { updateJsonSpec(document: object): void }
  }
  const explorer: (options: Record<string, unknown>) => Explorer
  export default explorer
}
