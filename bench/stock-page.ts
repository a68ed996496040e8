// Runs in the browser: the same mesh with the stock physical material of the renderer library.
import { frameOrbit, makeSpecimen } from '@pebble/core';
import * as THREE from 'three';

/** The maps a stock material takes without another lobe of light; `textures` of them, the environment beside them. */
const MAPS = 'map normalMap roughnessMap metalnessMap aoMap emissiveMap lightMap alphaMap specularIntensityMap specularColorMap'.split(' ');

async function frameTime(width: number, height: number, textures: number): Promise<number[]> {
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  const renderer = new THREE.WebGLRenderer({ canvas });
  renderer.setSize(width, height, false);
  const mesh = makeSpecimen('patch', 2.4);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(mesh.position, 3));
  geometry.setAttribute('normal', new THREE.BufferAttribute(mesh.normal, 3));
  geometry.setAttribute('tangent', new THREE.BufferAttribute(mesh.tangent, 4));
  geometry.setAttribute('uv', new THREE.BufferAttribute(mesh.texcoord, 2));
  geometry.setIndex(new THREE.BufferAttribute(mesh.index, 1));
  geometry.computeBoundingSphere();
  const texture = (i: number) => {
    const data = new Uint8Array(256 * 256 * 4);
    for (let k = 0; k < data.length; k++) data[k] = k % 4 === 3 ? 255 : 100 + ((k * (i + 7)) % 90);
    const t = new THREE.DataTexture(data, 256, 256);
    Object.assign(t, {
      wrapS: THREE.RepeatWrapping,
      wrapT: THREE.RepeatWrapping,
      magFilter: THREE.LinearFilter,
      minFilter: THREE.LinearMipmapLinearFilter,
      generateMipmaps: true,
      needsUpdate: true,
    });
    return t;
  };
  const maps = Object.fromEntries(MAPS.slice(0, textures).map((name, i) => [name, texture(i)]));
  const material = new THREE.MeshPhysicalMaterial({ ...maps, emissive: 0x101010 });
  const scene = new THREE.Scene();
  scene.add(new THREE.Mesh(geometry, material));
  scene.add(new THREE.DirectionalLight(0xffffff, 2));
  // The environment is a small cube, pre-filtered by the renderer once, outside what is timed.
  const sky = new THREE.Scene();
  sky.background = new THREE.Color(0.5, 0.55, 0.6);
  const filter = new THREE.PMREMGenerator(renderer);
  scene.environment = filter.fromScene(sky, 0, 0.1, 10, { size: 64 }).texture;
  const o = frameOrbit(2.4);
  const camera = new THREE.PerspectiveCamera((o.field * 180) / Math.PI, width / height, 0.05, 30);
  const c = Math.cos(o.pitch);
  camera.position.set(o.distance * c * Math.sin(o.yaw), o.distance * Math.sin(o.pitch), o.distance * c * Math.cos(o.yaw));
  camera.lookAt(...o.target);
  const gl = renderer.getContext() as WebGL2RenderingContext;
  const done = async () => {
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0) as WebGLSync;
    gl.flush();
    while (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await new Promise((r) => setTimeout(r, 4));
  };
  renderer.render(scene, camera);
  await done();
  const ms: number[] = [];
  for (let i = 0; i < 7; i++) {
    const began = performance.now();
    renderer.render(scene, camera);
    await done();
    ms.push(performance.now() - began);
  }
  renderer.dispose();
  return ms;
}

Object.assign(window, { pebbleStock: { frameTime } });
