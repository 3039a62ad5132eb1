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
  <GuestFrame
    v-model="user.name"
    :number="number"
    rights="Rights by topic"
    :message-for="messageFor"
    @left="emit('left', $event)"
    @drop="emit('drop')"
  >
    <SecretField
      v-model="user.password"
      :label="`Password ${number}`"
      :message="message('password') || message('password.plain')"
      @left="emit('left', at('password.plain'))"
    />
    <template #rights>
      <TopicRulesField
        v-model="user.rules"
        :what="`Rights of ${user.name || number}`"
        :path="at('rules')"
        :message-for="messageFor"
        @left="emit('left', $event)"
      />
    </template>
  </GuestFrame>
</template>
