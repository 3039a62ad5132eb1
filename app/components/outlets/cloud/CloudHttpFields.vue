<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { HttpWay } from '#shared/outlets/cloudPlatform'

/** How a platform is reached by HTTP. */
const way = defineModel<HttpWay>({ required: true })
defineProps<{ message(path: string): string; hasProblem(part: string): boolean }>()
const emit = defineEmits<{ left: [path: string] }>()

const between = [
  { value: 'none' as const, title: 'nothing' },
  { value: 'http' as const, title: 'a proxy' },
]
const goBy = (kind: HttpWay['proxy']['kind']) =>
  (way.value.proxy = kind === 'http' ? { kind, host: '', port: 3128, identity: { kind: 'anonymous' } } : { kind })
const isClear = computed(() => /^http:\/\/(?!127\.|localhost)/i.test(way.value.base) && way.value.signIn.kind !== 'none')
const summary = computed(() => {
  const { trust, proxy, headers, patience } = way.value
  const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
  return {
    trust: `${trust.verify ? 'their certificate verified' : 'their certificate is not verified'}${trust.certificate.kind === 'none' ? '' : ', we show a certificate'}`,
    proxy: proxy.kind === 'none' ? 'straight there' : `through ${proxy.host || 'a proxy'}:${proxy.port}`,
    headers: headers.length === 0 ? 'none besides the usual' : headers.map(({ name }) => name).join(', '),
    patience: `answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
  }
})
</script>

<template>
  <TextField
    v-model="way.base"
    label="Address"
    mono
    class="base"
    placeholder="https://platform.example/v1"
    hint="/sites/… is added to it"
    :message="message('base')"
    @left="emit('left', 'base')"
  />
  <ApiSignInFields v-model="way.signIn" :message="(field) => message(`signIn${field}`)" @left="emit('left', `signIn.${$event}`)" />
  <p v-if="isClear" class="is-late">Nothing encrypts this connection: everybody on the way can read what signs us in.</p>
  <SettingsFold title="Protection" :summary="summary.trust" :has-problem="hasProblem('trust')">
    <TrustFields v-model="way.trust" :message="(field) => message(`trust.${field}`)" @left="emit('left', `trust.${$event}`)" />
  </SettingsFold>
  <SettingsFold title="Way there" :summary="summary.proxy" :has-problem="hasProblem('proxy')">
    <ChoiceField :model-value="way.proxy.kind" label="In between stands" :choices="between" @update:model-value="goBy" />
    <ProxyFields
      v-if="way.proxy.kind === 'http'"
      v-model="way.proxy"
      :message="(field) => message(`proxy.${field}`)"
      @left="emit('left', `proxy.${$event}`)"
    />
  </SettingsFold>
  <SettingsFold title="Headers" :summary="summary.headers" :has-problem="hasProblem('headers')">
    <HeaderFields v-model="way.headers" what="Header" path="headers" :message="message" class="wide" @left="emit('left', $event)" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="hasProblem('patience')">
    <PatienceFields v-model="way.patience" :message="message" @left="emit('left', $event)" />
  </SettingsFold>
</template>

<style scoped>
.base {
  margin: 10px 0;
}
.wide {
  grid-column: 1 / -1;
}
</style>
