import { z } from 'zod';

// The page's content policy forbids code made at run time. Schemas look at this when they are made: import it first.
z.config({ jitless: true });
