/// <reference lib="webworker" />
import { hostStage } from '@pebble/stage';

hostStage(globalThis as unknown as Parameters<typeof hostStage>[0]);
