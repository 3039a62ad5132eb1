<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import 'swagger-ui-dist/swagger-ui.css'

/** Every operation of the API: what it takes and gives, to be tried with one’s own session. */
const props = defineProps<{ document: object }>()
const place = ref<HTMLElement | null>(null)

onMounted(async () => {
  const { default: explorer } = await import('swagger-ui-dist/swagger-ui-es-bundle.js')
  const { specActions } = explorer({
    domNode: place.value,
    spec: props.document,
    docExpansion: 'list',
    defaultModelsExpandDepth: -1,
    defaultModelExpandDepth: 3,
    displayRequestDuration: true,
    // nothing is asked of anybody outside
    validatorUrl: null,
  })
  const show = useDebounceFn((document: object) => specActions.updateJsonSpec(document), 150)
  watch(() => props.document, show)
})
</script>

<template>
  <div ref="place" class="explorer"></div>
</template>

<style>
/* The package's own looks give way to the house's: its colours, its type, its lines. */
.explorer .swagger-ui,
.explorer .swagger-ui *:not(pre, code, pre *, code *, textarea) {
  font-family: inherit !important;
  color: var(--ink);
}
.explorer .swagger-ui :is(pre, code, textarea, .opblock-summary-path, .opblock-summary-path *, .opblock-summary-method) {
  font-family: var(--mono) !important;
}
.explorer .swagger-ui :is(.information-container, .scheme-container, .opblock-summary-operation-id, .auth-wrapper, .authorization__btn) {
  display: none;
}
.explorer .swagger-ui .wrapper {
  max-width: none;
  padding: 0;
}
.explorer .swagger-ui .opblock-tag {
  font-size: 15px;
  font-weight: 600;
  padding: 10px 0 6px;
  border-bottom: 1px solid var(--line);
}
.explorer .swagger-ui .opblock {
  margin: 0;
  border: 0;
  border-bottom: 1px solid var(--line-soft);
  border-radius: 0;
  background: none;
  box-shadow: none;
}
.explorer .swagger-ui .opblock.is-open {
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: 6px;
  margin: 6px 0 12px;
}
.explorer .swagger-ui .opblock .opblock-summary {
  padding: 3px 6px;
  border: 0;
}
.explorer .swagger-ui .opblock .opblock-summary-method {
  min-width: 62px;
  padding: 2px 0;
  background: none;
  color: var(--primary) !important;
  text-align: left;
  text-shadow: none;
  font: 600 12px/1.4 var(--mono);
}
.explorer .swagger-ui .opblock.opblock-delete .opblock-summary-method {
  color: var(--break) !important;
}
.explorer .swagger-ui .opblock:is(.opblock-put, .opblock-post) .opblock-summary-method {
  color: var(--copper) !important;
}
.explorer .swagger-ui .opblock-summary-path,
.explorer .swagger-ui .opblock-summary-path a {
  font: 500 13px/1.5 var(--mono);
  color: var(--ink);
  max-width: none;
  flex: 0 1 auto;
}
.explorer .swagger-ui .opblock-summary-description {
  font-size: 13px;
  color: var(--quiet);
}
.explorer .swagger-ui .opblock-section-header {
  background: var(--tint);
  box-shadow: none;
  min-height: 36px;
  padding: 4px 14px;
}
.explorer .swagger-ui :is(.opblock-description-wrapper, .parameters-container, .responses-inner, .table-container) {
  padding: 8px 14px;
}
.explorer .swagger-ui :is(pre, code) {
  font-size: 12px !important;
  font-weight: 400 !important;
  line-height: 1.5;
  color: var(--ink) !important;
}
.explorer .swagger-ui pre code {
  background: none !important;
}
.explorer .swagger-ui :is(pre, code) * {
  color: var(--ink) !important;
}
.explorer .swagger-ui pre {
  padding: 8px 10px;
  background: var(--tint) !important;
  border-radius: 4px;
}
.explorer .swagger-ui .tab-header .tab-item.active h4 span::after {
  background: var(--primary) !important;
}
.explorer .swagger-ui :is(.parameter__name.required::after, .parameter__name.required span, .opblock-section-header small) {
  color: var(--break) !important;
}
.explorer .swagger-ui :is(.opblock-control-arrow, .expand-operation) svg {
  width: 13px;
  height: 13px;
}
.explorer .swagger-ui :is(select, input[type='text'], textarea) {
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: 6px;
  box-shadow: none;
  font-size: 13px;
}
.explorer .swagger-ui textarea {
  font: 12px/1.5 var(--mono);
}
.explorer .swagger-ui .btn {
  border: 1px solid var(--primary);
  border-radius: 6px;
  color: var(--primary) !important;
  background: none;
  box-shadow: none;
  font-weight: 500;
}
.explorer .swagger-ui .btn.execute {
  background: var(--primary);
  color: var(--surface) !important;
}
.explorer .swagger-ui svg {
  fill: var(--quiet);
}
</style>
