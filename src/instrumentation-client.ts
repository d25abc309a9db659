/** Runs in the browser before a page comes to life. */
import { watchConnection } from '@/ui/connection';

watchConnection();
