import type { Routes } from '@angular/router';

export const routes: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'surfaces' },
  { path: 'surfaces', loadComponent: () => import('./views/surfaces/surfaces.view').then((m) => m.SurfacesView), title: 'Surfaces · Jaunty Pebble' },
  { path: 'blend', loadComponent: () => import('./views/blend/blend.view').then((m) => m.BlendView), title: 'Blend · Jaunty Pebble' },
  { path: 'blend/:id', loadComponent: () => import('./views/blend/blend.view').then((m) => m.BlendView), title: 'Blend · Jaunty Pebble' },
  { path: 'master', loadComponent: () => import('./views/master/master.view').then((m) => m.MasterView), title: 'Master · Jaunty Pebble' },
  { path: 'master/:id', loadComponent: () => import('./views/master/master.view').then((m) => m.MasterView), title: 'Master · Jaunty Pebble' },
  { path: 'paint', loadComponent: () => import('./views/paint/paint.page').then((m) => m.PaintPage), title: 'Paint · Jaunty Pebble' },
  { path: 'paint/:id', loadComponent: () => import('./views/paint/paint.page').then((m) => m.PaintPage), title: 'Paint · Jaunty Pebble' },
  { path: 'pack', loadComponent: () => import('./views/pack/pack.view').then((m) => m.PackView), title: 'Pack · Jaunty Pebble' },
  { path: 'deliver', loadComponent: () => import('./views/deliver/deliver.view').then((m) => m.DeliverView), title: 'Deliver · Jaunty Pebble' },
  { path: '**', redirectTo: 'surfaces' },
];
