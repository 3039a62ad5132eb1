/** The package's own looks give way to the house's: its colours, its type, its lines. */
export const docsStyle = `
@font-face { font-family: Plex; src: url(/docs/plex.woff2) format('woff2'); font-weight: 400; }
@font-face { font-family: Plex; src: url(/docs/plex-bold.woff2) format('woff2'); font-weight: 600; }
@font-face { font-family: PlexMono; src: url(/docs/plex-mono.woff2) format('woff2'); }
body { margin: 0; background: #f4f3ee; color: #18262b; font: 13px/1.5 Plex, system-ui, sans-serif; }
#explorer .swagger-ui, #explorer .swagger-ui *:not(pre, code, pre *, code *, textarea) { font-family: inherit !important; color: #18262b; }
#explorer .swagger-ui :is(pre, code, textarea, .opblock-summary-path, .opblock-summary-path *, .opblock-summary-method) {
  font-family: PlexMono, ui-monospace, monospace !important;
}
#explorer .swagger-ui :is(.topbar, .servers-title, .servers, .info hgroup.main > a, .version-stamp, .info .title small) { display: none; }
#explorer .swagger-ui .wrapper { max-width: 1100px; padding: 0 20px; }
#explorer .swagger-ui .info { margin: 20px 0 8px; }
#explorer .swagger-ui .info .title { font-size: 22px; font-weight: 600; }
#explorer .swagger-ui .scheme-container { margin: 0; padding: 0 0 8px; background: none; box-shadow: none; }
#explorer .swagger-ui .opblock-tag { padding: 10px 0 6px; font-size: 15px; font-weight: 600; border-bottom: 1px solid #d9d8d0; }
#explorer .swagger-ui .opblock { margin: 0; border: 0; border-bottom: 1px solid #e6e5de; border-radius: 0; background: none; box-shadow: none; }
#explorer .swagger-ui .opblock.is-open { margin: 6px 0 12px; background: #fff; border: 1px solid #d9d8d0; border-radius: 6px; }
#explorer .swagger-ui .opblock .opblock-summary { padding: 3px 6px; border: 0; }
#explorer .swagger-ui .opblock .opblock-summary-method {
  min-width: 62px; padding: 2px 0; background: none; color: #0e5a63 !important; text-align: left; text-shadow: none; font-size: 12px;
}
#explorer .swagger-ui .opblock:is(.opblock-put, .opblock-post) .opblock-summary-method { color: #b3611f !important; }
#explorer .swagger-ui .opblock.opblock-delete .opblock-summary-method { color: #a1203f !important; }
#explorer .swagger-ui :is(.opblock-summary-path, .opblock-summary-path a) { font-size: 13px; font-weight: 400; }
#explorer .swagger-ui .opblock-section-header { min-height: 36px; padding: 4px 14px; background: #eef1f0; box-shadow: none; }
#explorer .swagger-ui :is(.btn, select, input[type='text'], input[type='password'], textarea) {
  border: 1px solid #b9bdb9; border-radius: 6px; background: #fff; box-shadow: none; font-size: 13px;
}
#explorer .swagger-ui .btn.execute { background: #0e5a63; border-color: #0e5a63; color: #fff; }
#explorer .swagger-ui .btn.authorize { border-color: #0e5a63; color: #0e5a63; }
#explorer .swagger-ui .btn.authorize svg { display: none; }
#explorer .swagger-ui pre { padding: 8px 10px; background: #eef1f0 !important; border-radius: 4px; }
#explorer .swagger-ui :is(pre, code), #explorer .swagger-ui :is(pre, code) * { font-size: 12px !important; color: #18262b !important; }
`
