// The geometry room: everything that a mesh may say of its places, once each. The compiler's leaves, G-buffers, vertex
// shaders, meshes that are divided, merged or looked through, and the section all go over this list.
export * from './inputs';
