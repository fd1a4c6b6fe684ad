<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { RULE_FORM_NAMES, RULE_FORMS, type RuleForm } from '../../../core/address/redirect-rules.ts';
import type { RedirectsView } from '../../../api/upkeep.ts';
import { api } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import AppOption from '../../kit/AppOption.ts';
import AppButton from '../../kit/AppButton.vue';
import AppSelect from '../../kit/AppSelect.vue';

/** The redirects that the site keeps, for the web server that serves it. */
const site = useSite();
const redirects = ref(0);
const faults = ref<RedirectsView['faults']>([]);
const form = ref<RuleForm>('apache');
const told = computed(() => RULE_FORM_NAMES[form.value]);
watch(
  () => site.revision,
  async () => {
    const told = await api.redirects();
    redirects.value = told.count;
    faults.value = told.faults;
  },
  { immediate: true },
);
</script>

<template>
  <section>
    <h2>Redirects</h2>
    <p>
      {{ count(redirects, 'old address', 'old addresses') }}
      {{ redirects === 1 ? 'redirects' : 'redirect' }} to new ones. They are listed in
      <span class="mono">iconomos-redirects.csv</span> in the site’s root; the site as served here follows
      them.
    </p>
    <div v-if="faults.length" class="faults" role="note">
      <p>
        {{ count(faults.length, 'line', 'lines') }} of that file
        {{ faults.length === 1 ? 'is no redirect and is' : 'are no redirects and are' }} not followed. Correct
        {{ faults.length === 1 ? 'it' : 'them' }} in the file.
      </p>
      <ul>
        <li v-for="one in faults" :key="one.line">Line {{ one.line }}: {{ one.why }}</li>
      </ul>
    </div>
    <p class="row">
      <label
        >For
        <AppSelect v-model="form" :chars="18"
          ><AppOption
            v-for="one in RULE_FORMS"
            :key="one"
            :value="one"
            :label="RULE_FORM_NAMES[one].name"
          /> </AppSelect
      ></label>
      <AppButton v-if="redirects" :href="`/api/redirects/${form}`" :download="told.file"
        >Download rules</AppButton
      >
    </p>
    <p class="soft">{{ told.how }}</p>
  </section>
</template>

<style scoped>
section {
  padding: 14px 0;
  margin-top: 18px;
  border-top: 1px solid var(--rule);
}
.row {
  display: flex;
  align-items: center;
  padding: 8px 0;
  gap: 12px;
}
.faults {
  padding: 8px 0;
  overflow-wrap: anywhere;
}
.faults ul {
  max-height: 30vh;
  margin: 6px 0 0;
  overflow: auto;
}
</style>
