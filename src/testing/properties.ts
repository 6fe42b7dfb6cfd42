/** Said to fast-check before each test file. */
import fc from 'fast-check';
import { PROPERTIES } from './runs';

fc.configureGlobal(PROPERTIES);
