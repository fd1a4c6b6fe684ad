import { config } from 'zod';

// The page may run no code that is made at run time; schemas are read as they are. Imported before any schema is made.
config({ jitless: true });
