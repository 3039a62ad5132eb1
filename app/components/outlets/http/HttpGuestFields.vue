<script setup lang="ts">
import { bearerOf, type HttpUser } from '#shared/outlets/httpServer'

/** A program that comes in by name and token, and what it may do. */
const user = defineModel<HttpUser>({ required: true })
const props = defineProps<{ number: number; folders: readonly string[]; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()
const { copied, copy } = useCopy()

const at = (path: string) => `settings.users.${props.number - 1}.${path}`
const message = (path: string) => props.messageFor(at(path))
const make = () => {
  const bytes = crypto.getRandomValues(new Uint8Array(24))
  user.value.token = {
    plain: btoa(String.fromCharCode(...bytes))
      .replaceAll('+', '-')
      .replaceAll('/', '_'),
  }
}
/** Seen as long as it was not saved; after that nobody can tell it. */
const shown = computed(() => {
  const { name, token } = user.value
  return 'plain' in token && token.plain !== '' && name !== '' ? `Bearer ${bearerOf(name, token.plain)}` : ''
})
</script>

<template>
  <GuestFrame
    v-model="user.name"
    :number="number"
    rights="Rights by folder"
    :message-for="messageFor"
    @left="emit('left', $event)"
    @drop="emit('drop')"
  >
    <div>
      <SecretField
        v-model="user.token"
        :label="`Token ${number}`"
        :message="message('token') || message('token.plain')"
        @left="emit('left', at('token.plain'))"
      />
      <v-btn height="24" class="make" @click="make">Make a token</v-btn>
    </div>
    <p v-if="shown" class="wide shown">
      <span class="quiet">It is sent as the header Authorization; copy it now, it is not shown again:</span>
      <span class="mono">{{ shown }}</span>
      <v-btn height="22" @click="copy(shown)">{{ copied === shown ? 'Copied' : 'Copy' }}</v-btn>
    </p>
    <template #rights>
      <RulesField
        v-model="user.rules"
        :what="`Rights of ${user.name || number}`"
        :path="at('rules')"
        :folders="folders"
        :message-for="messageFor"
      />
    </template>
  </GuestFrame>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
.make {
  margin-top: 4px;
}
.shown {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  overflow-wrap: anywhere;
}
</style>
