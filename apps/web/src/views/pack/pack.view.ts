import { Component } from '@angular/core';
@Component({ selector: 'pb-pack', template: 'soon' })
export class PackView {}
