<script setup lang="ts">
import { clockText } from '#core/text/moment'
import type { ValueStage } from '#shared/values'

/** From the bytes on the wire to what is passed on, stage by stage down a pipe. */
defineProps<{ stages: ValueStage[] }>()
</script>

<template>
  <ol class="stages">
    <li v-for="stage in stages" :key="stage.title">
      <div class="line">
        <span class="quiet">{{ stage.title }}</span><span class="quiet detail"
          >{{ stage.detail }}<template v-if="stage.at">{{ ` ${clockText(stage.at)}` }}</template></span
        >
      </div>
      <div class="mono text">{{ stage.text }}</div>
    </li>
  </ol>
</template>

<style scoped>
.stages {
  list-style: none;
  margin: 8px 0 14px;
  padding: 0 0 0 24px;
  position: relative;
}
.stages::before {
  content: '';
  position: absolute;
  left: 4px;
  top: 0;
  bottom: 0;
  width: 6px;
  background: linear-gradient(90deg, var(--flow) 2px, transparent 2px 4px, var(--flow) 4px);
}
li {
  position: relative;
  padding-bottom: 8px;
}
li::before {
  content: '';
  position: absolute;
  left: -24px;
  top: 7px;
  width: 14px;
  height: 5px;
  background: var(--primary);
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  font-size: 12px;
}
.detail {
  text-align: right;
}
.text {
  font-weight: 600;
  overflow-wrap: anywhere;
}
</style>
