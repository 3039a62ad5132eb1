<script setup lang="ts">
import type { DialledClient } from '#shared/outlets/opcuaServer'

/** One client that we dial: where it awaits us, how that is secured, and who it may be. */
const client = defineModel<DialledClient>({ required: true })
const props = defineProps<{ number: number; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.dialled.${props.number - 1}`)
const message = (field: string) => props.messageFor(`${path.value}.${field}`)
const left = (field: string) => emit('left', `${path.value}.${field}`)
const warning = computed(() =>
  client.value.policies.includes('None') ? 'Whoever listens there can come in, and nothing on the way is encrypted.' : '',
)
</script>

<template>
  <fieldset class="framed">
    <legend>Dialled client {{ number }}</legend>
    <div class="grid">
      <div class="place">
        <TextField
          v-model="client.host"
          label="Host"
          mono
          placeholder="office.port.example"
          :message="message('host')"
          @left="left('host')"
        />
        <NumberField v-model="client.port" label="Port" :message="message('port')" @left="left('port')" />
      </div>
      <EntranceFields v-model="client" :message="message" />
    </div>
    <div class="who">
      <WhoEnters v-model="client" />
      <v-checkbox v-model="client.on" label="Dial" density="compact" hide-details />
      <v-btn height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
    <p v-if="message('names')" class="is-broken">{{ message('names') }}</p>
    <p v-if="warning" class="is-late">{{ warning }}</p>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  gap: 10px;
}
.place {
  display: grid;
  grid-template-columns: 1fr 100px;
  gap: 10px;
}
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-top: 4px;
}
p {
  margin: 4px 0 0;
}
</style>
