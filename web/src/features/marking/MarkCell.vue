<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import NumberField from '@/shared/NumberField.vue'

/** One mark with its reason; an instructor may confirm a suggestion or mark otherwise, with a word why. */
const props = defineProps<{ mark: Schemas['MarkRow'] | undefined; question: string; teaches: boolean }>()
const emit = defineEmits<{ override: [earned: number | null, reason: string] }>()
const open = ref(false)
const points = ref(0)
const reason = ref('')
function start(): void {
  open.value = !open.value
  points.value = props.mark?.earned ?? 0
  reason.value = ''
}
function send(): void {
  emit('override', points.value, reason.value)
  open.value = false
}

function takeBack() {
  emit('override', null, 'back to the rubric')
  open.value = false
}
</script>

<template>
  <td class="mark" :data-mark="question">
    <div v-if="mark" class="row">
      <b class="num" :class="{ lost: mark.earned < mark.points }"
        >{{ mark.code === 'to_confirm' ? '?' : mark.earned >= mark.points ? '✓' : mark.earned ? '½' : '✗' }}
        {{ mark.earned }}<template v-if="mark.points > 1">/{{ mark.points }}</template></b
      >
      <span>{{ mark.text }}</span>
      <button
        v-if="teaches && mark.code === 'to_confirm'"
        type="button"
        class="confirm"
        @click="emit('override', mark.suggested ?? 0, '')"
      >
        Confirm {{ mark.suggested }}
      </button>
      <button
        v-if="teaches"
        type="button"
        class="other"
        :aria-label="`Mark ${question.replace(/_/g, ' ')} otherwise`"
        :aria-expanded="open"
        @click="start"
      >
        {{ mark.overridden ? 'yours' : '±' }}
      </button>
    </div>
    <div v-if="open && mark" class="otherwise">
      <NumberField v-model="points" :min="0" :max="mark.points" aria-label="Points" /> of {{ mark.points }}
      <input
        v-model="reason"
        class="why"
        maxlength="400"
        placeholder="why"
        aria-label="Reason"
        @keydown.enter.prevent="send"
      />
      <button type="button" class="confirm" :disabled="!reason.trim()" @click="send">Save</button>
      <button v-if="mark.overridden" type="button" class="other" @click="takeBack">Back to the rubric</button>
    </div>
  </td>
</template>

<style scoped>
.mark {
  width: 46%;
  font-size: 12.5px;
  line-height: 1.15;
  padding: 0 6px;
  border-bottom: 1px solid var(--line);
}
.row {
  display: flex;
  align-items: baseline;
  gap: 4px;
}
.row > span {
  flex: 1;
}
b {
  flex: none;
  width: 46px;
  color: var(--good);
}
b.lost {
  color: var(--high);
}
.confirm {
  border: 1px solid var(--violet);
  background: var(--violet);
  color: var(--white);
  border-radius: 3px;
  padding: 1px 8px;
  cursor: pointer;
  white-space: nowrap;
}
.confirm:disabled {
  opacity: 0.4;
}
.other {
  border: 1px solid var(--line);
  background: none;
  border-radius: 3px;
  cursor: pointer;
  color: var(--ink-soft);
  min-width: 24px;
  min-height: 24px;
}
.otherwise {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 3px 0;
}
.otherwise input {
  width: 46px;
}
.otherwise .why {
  flex: 1;
}
@media (max-width: 600px) {
  .mark {
    width: auto;
    height: auto;
  }
}
</style>
