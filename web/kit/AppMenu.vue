<script setup lang="ts" generic="T extends string">
import { ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus/es/components/dropdown/index';
import 'element-plus/es/components/dropdown/style/css';
import 'element-plus/es/components/dropdown-item/style/css';
import 'element-plus/es/components/dropdown-menu/style/css';
import { useTemplateRef } from 'vue';

/**
 * Acts that hang from a button (the slot). Without one it opens for an event, the right click or the
 * menu key.
 */
defineProps<{
  items: readonly {
    key: T;
    label: string;
    keys?: string;
    danger?: boolean;
    disabled?: boolean;
    divided?: boolean;
  }[];
  label: string;
}>();
const emit = defineEmits<{ choose: [key: T]; closed: [] }>();
const menu = useTemplateRef('menu');
let at = { x: 0, y: 0 };
const place = { getBoundingClientRect: () => new DOMRect(at.x, at.y, 0, 0) } as HTMLElement;
defineExpose({
  /** At the mouse, or below the element for who works by keys. */
  openFor(event: Event) {
    const { left, bottom } = (event.target as HTMLElement).getBoundingClientRect();
    const { clientX, clientY } = event as MouseEvent;
    at = { x: clientX || left + 16, y: clientY || bottom };
    menu.value?.handleClose();
    setTimeout(() => menu.value?.handleOpen());
  },
});
</script>

<template>
  <ElDropdown
    ref="menu"
    class="app-menu"
    trigger="click"
    append-to="#menus"
    :persistent="false"
    placement="bottom-start"
    :virtual-triggering="!$slots['default']"
    :virtual-ref="$slots['default'] ? undefined : place"
    :show-arrow="false"
    :popper-options="{ modifiers: [{ name: 'offset', options: { offset: [0, 2] } }] }"
    @command="emit('choose', $event as T)"
    @visible-change="$event || emit('closed')"
  >
    <slot></slot>
    <template #dropdown>
      <ElDropdownMenu :aria-label="label">
        <ElDropdownItem
          v-for="one in items"
          :key="one.key"
          :command="one.key"
          :disabled="one.disabled"
          :divided="one.divided"
          :class="{ danger: one.danger }"
        >
          <span>{{ one.label }}</span> <kbd v-if="one.keys">{{ one.keys }}</kbd>
        </ElDropdownItem>
      </ElDropdownMenu>
    </template>
  </ElDropdown>
</template>
