import { benchScan } from './scan.ts';
for (let i = 0; i < 3; i++) await benchScan((t) => console.log(t));
