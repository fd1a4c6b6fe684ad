import './schemas.ts';
import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/atkinson-hyperlegible-mono';
import 'element-plus/es/components/base/style/css';
import 'element-plus/es/components/message/style/css';
import 'element-plus/es/components/message-box/style/css';
import './theme.css';
import './kit/kit.css';
import './kit/more.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import AppRoot from './AppRoot.vue';
import { loadTheRest } from './kit/later.ts';
import { router } from './router.ts';

createApp(AppRoot).use(createPinia()).use(router).mount('#app');

void router.isReady().then(loadTheRest);
