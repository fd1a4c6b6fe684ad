<script setup lang="ts">
import { computed, ref } from 'vue';
import { extensionOf, stemOf } from '../../../core/address/path.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { weight } from '../../parts/words.ts';
import { useIntake, type Line } from '../../stores/intake.ts';

const props = defineProps<{ line: Line }>();
const intake = useIntake();
const arrival = computed(() => props.line.arrival);
const stem = ref('');
const editing = ref(false);

function edit() {
  stem.value = stemOf(arrival.value!.name);
  editing.value = true;
}
async function rename() {
  editing.value = false;
  await intake.rename(props.line, stem.value.trim() + extensionOf(arrival.value!.name));
}
const STATES = {
  waiting: 'waits its turn',
  sending: 'is being sent',
  checking: 'is being checked',
  ready: 'ready',
  refused: 'refused',
};
</script>

<template>
  <li :class="line.state">
    <div class="picture">
      <ItemPicture v-if="arrival" :sha256="arrival.sha256" :kind="arrival.kind" :name="arrival.name" />
    </div>
    <div class="names mono">
      <form v-if="editing && arrival" @submit.prevent="rename">
        <!-- eslint-disable-next-line vuejs-accessibility/no-autofocus -->
        <input
          v-model="stem"
          :aria-label="`New name of ${line.givenName}`"
          autofocus
          @blur="rename"
          @keydown.escape.stop="editing = false"
        />{{ extensionOf(arrival.name) }}
      </form>
      <button
        v-else-if="arrival"
        class="link"
        type="button"
        title="Change the name it will have"
        @click="edit"
      >
        {{ arrival.name }}
      </button>
      <del v-if="arrival && arrival.name !== line.givenName">{{ line.givenName }}</del>
      <span v-if="!arrival">{{ line.givenName }}</span>
    </div>
    <div class="size figures soft">
      <template v-if="arrival?.width">{{ arrival.width }} × {{ arrival.height }} px<br /></template
      >{{ weight(line.bytes) }}
    </div>
    <div class="says">
      <p v-if="line.fault" class="losing">{{ line.fault }}</p>
      <p v-for="note in arrival?.notes ?? []" :key="note">{{ note }}</p>
      <p v-if="arrival?.sameAs.length">
        The same file is here already:
        <RouterLink class="mono" :to="{ query: { item: arrival.sameAs[0]!.id } }">{{
          arrival.sameAs[0]!.path
        }}</RouterLink>. It is not stored twice.
        <label
          ><input
            type="checkbox"
            :checked="line.keepBoth"
            @change="intake.keepBoth(line, ($event.target as HTMLInputElement).checked)"
          />
          Keep both</label
        >
      </p>
      <p v-else-if="line.state !== 'refused'" class="soft" role="status">{{ STATES[line.state] }}</p>
    </div>
    <button
      class="link act-on"
      type="button"
      :disabled="line.state === 'sending' || line.state === 'checking'"
      @click="intake.drop(line)"
    >
      {{ line.state === 'refused' ? 'Take off the list' : 'Leave out' }}
    </button>
    <div
      class="rule"
      role="progressbar"
      :aria-label="`Sending ${line.givenName}`"
      :aria-valuenow="Math.round((100 * line.sent) / Math.max(1, line.bytes))"
      aria-valuemin="0"
      aria-valuemax="100"
      :style="{ width: `${(100 * line.sent) / Math.max(1, line.bytes)}%` }"
    ></div>
  </li>
</template>

<style scoped>
li {
  position: relative;
  display: grid;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
  gap: 14px;
  grid-template-columns: 72px minmax(180px, 1.1fr) 110px minmax(220px, 1.4fr) 124px;
}
.act-on {
  justify-self: end;
}
.picture {
  height: 50px;
}
.names {
  display: flex;
  min-width: 0;
  flex-direction: column;
  align-items: flex-start;
  word-break: break-all;
}
.names .link {
  font: inherit;
  font-weight: 600;
  text-align: left;
  word-break: break-all;
}
.names input {
  width: 70%;
}
del {
  color: var(--madder);
}
.losing {
  color: var(--madder);
}
.says label {
  white-space: nowrap;
}
.rule {
  position: absolute;
  bottom: -1px;
  left: 0;
  height: 2px;
  background: var(--verdigris);
}
.refused .rule {
  background: var(--madder);
}
</style>
