<script setup lang="ts">
import { dialectText, sqlDialects, usualPort, type SqlDialect, type SqlSettings } from '#core/sql/settings'
import { duration } from '#core/text/duration'

/** What belongs to a database: where it is and who we are there; the rest folded, readable as a line. */
const settings = defineModel<SqlSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const dialects = sqlDialects.map((dialect) => ({ value: dialect, title: dialectText[dialect] }))
/** A port that was only the usual one follows the kind of database. */
const choose = (dialect: SqlDialect) => {
  if (settings.value.port === usualPort[settings.value.dialect]) settings.value.port = usualPort[dialect]
  settings.value.dialect = dialect
}

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { tls, readOnly, connections, patience } = settings.value
  return {
    tls: protectionText(tls),
    use: `${readOnly ? 'nothing is written' : 'bridges may write'}, ${connections} ${connections === 1 ? 'connection' : 'connections'} at most`,
    patience: `connects within ${ms(patience.connect)}, a statement takes ${ms(patience.answer)} at most, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
  }
})
</script>

<template>
  <div class="first">
    <ChoiceField :model-value="settings.dialect" label="Kind of database" :choices="dialects" @update:model-value="choose" />
    <TextField
      v-model="settings.host"
      label="Server"
      mono
      placeholder="10.8.1.40 or callbook.port.example"
      :message="message('host')"
      @left="left('host')"
    />
    <NumberField v-model="settings.port" label="Port" :message="message('port')" @left="left('port')" />
  </div>
  <div class="second">
    <TextField v-model="settings.database" label="Database" mono :message="message('database')" @left="left('database')" />
    <TextField v-model="settings.user" label="Account" mono :message="message('user')" @left="left('user')" />
    <SecretField
      v-model="settings.password"
      label="Password"
      :message="message('password') || message('password.plain')"
      @left="left('password.plain')"
    />
  </div>
  <SettingsFold title="Protection" :summary="summary.tls" :has-problem="wrong('tls')">
    <TlsFields v-model="settings.tls" :message="(field) => message(`tls.${field}`)" @left="left(`tls.${$event}`)" />
  </SettingsFold>
  <SettingsFold title="Use" :summary="summary.use" :has-problem="wrong('readOnly', 'connections')">
    <v-switch v-model="settings.readOnly" label="Read only: nothing is written, whatever bridges want" />
    <NumberField v-model="settings.connections" label="Connections at most" :message="message('connections')" @left="left('connections')" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
</template>

<style scoped>
.first,
.second {
  display: grid;
  grid-template-columns: 170px 1fr 100px;
  gap: 12px;
  margin-bottom: 16px;
}
.second {
  grid-template-columns: repeat(3, minmax(0, 1fr));
}
.wide {
  grid-column: 1 / -1;
}
</style>
