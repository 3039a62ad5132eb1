<script setup lang="ts">
import type { Reference } from '#core/links/reference'

/** What a protocol’s addresses look like, what they hold, and what its errors mean. */
const open = defineModel<boolean>({ required: true })
defineProps<{ reference: Reference; title: string }>()
</script>

<template>
  <v-dialog v-model="open" max-width="760" scrollable :aria-label="`Reference: ${title}`">
    <div class="sheet reference" tabindex="0">
      <h2 class="sheet-title">{{ title }}</h2>
      <h3>Notation</h3>
      <dl>
        <template v-for="one in reference.notation" :key="one.form">
          <dt class="mono">{{ one.form }}</dt>
          <dd class="quiet">{{ one.about }}</dd>
        </template>
      </dl>
      <h3>Places</h3>
      <dl>
        <template v-for="place in reference.places" :key="place.name">
          <dt class="mono">{{ place.name }}</dt>
          <dd>
            <span class="quiet">{{ place.about }}</span>
            <br />by default <span class="mono">{{ place.usual }}</span>{{ place.writable ? ', read and written' : ', read only' }}; also
            <span class="mono">{{
              place.types
                .filter((type) => type !== place.usual)
                .slice(0, 12)
                .join(' ') || 'nothing else'
            }}</span>
          </dd>
        </template>
      </dl>
      <h3>Limits and widths</h3>
      <dl>
        <template v-for="limit in reference.limits" :key="limit.what">
          <dt>{{ limit.what }}</dt>
          <dd class="quiet">{{ limit.is }}</dd>
        </template>
      </dl>
      <h3>Errors</h3>
      <dl>
        <template v-for="error in reference.errors" :key="error.code">
          <dt class="mono">{{ error.code }}</dt>
          <dd>
            {{ error.words }}<br /><span class="quiet">{{ error.next }}</span>
          </dd>
        </template>
      </dl>
      <v-btn @click="open = false">Close</v-btn>
    </div>
  </v-dialog>
</template>

<style scoped>
.reference {
  padding: 18px 22px;
  overflow-y: auto;
}
h3 {
  margin: 14px 0 6px;
  font-size: 13px;
  font-weight: 600;
}
dl {
  display: grid;
  grid-template-columns: minmax(150px, auto) 1fr;
  gap: 4px 16px;
  margin: 0 0 8px;
  font-size: 12px;
}
dt {
  overflow-wrap: anywhere;
  max-width: 280px;
}
dd {
  margin: 0;
}
</style>
