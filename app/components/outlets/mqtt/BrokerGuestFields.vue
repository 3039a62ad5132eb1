<script setup lang="ts">
import type { BrokerUser } from '#shared/outlets/mqttBroker'

/** One who comes in by name and password, and what that one may do. */
const user = defineModel<BrokerUser>({ required: true })
const props = defineProps<{ number: number; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()

const at = (path: string) => `settings.users.${props.number - 1}.${path}`
const message = (path: string) => props.messageFor(at(path))
</script>

<template>
  <fieldset class="framed">
    <legend>{{ user.name || `Name ${number}` }}</legend>
    <div class="grid">
      <TextField v-model="user.name" :label="`Name ${number}`" :message="message('name')" @left="emit('left', at('name'))" />
      <SecretField
        v-model="user.password"
        :label="`Password ${number}`"
        :message="message('password') || message('password.plain')"
        @left="emit('left', at('password.plain'))"
      />
    </div>
    <span class="label">Rights by topic</span>
    <TopicRulesField
      v-model="user.rules"
      :what="`Rights of ${user.name || number}`"
      :path="at('rules')"
      :message-for="messageFor"
      @left="emit('left', $event)"
    />
    <v-btn height="26" class="drop" @click="emit('drop')">Drop this name</v-btn>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-bottom: 10px;
}
.drop {
  margin-top: 10px;
}
</style>
