import { Component } from '@angular/core';
@Component({ selector: 'pb-blend', template: 'soon' })
export class BlendView {}
