import { Injectable } from '@angular/core';
import { MaterialPrograms } from '@pebble/core';

/** Programs for the processor that the page's own thread runs: section, probes, reliefs and cues share them. */
@Injectable({ providedIn: 'root' })
export class PagePrograms extends MaterialPrograms {}
