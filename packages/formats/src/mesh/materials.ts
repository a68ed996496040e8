// Materials of binary glTF 2.0: textures as they are packed, and what the format says of how they are read.
import type { Document as GltfDocument, Material, Primitive, Texture } from '@gltf-transform/core';
import { TextureInfo } from '@gltf-transform/core';
import {
  KHRMaterialsClearcoat,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVariants,
  KHRTextureBasisu,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import type { Variant } from '@gltf-transform/extensions';
import type { Drawn } from '@pebble/core';

/** Textures that a material may have: what their channels hold is the format's (glTF 2.0 §3.9 and its extensions). */
export const GLB_TEXTURES = {
  /** rgb base colour as sRGB, a opacity. */
  baseColor: 'base colour',
  /** r occlusion, g roughness, b metallic. */
  orm: 'occlusion, roughness, metallic',
  /** xyz, Y+. */
  normal: 'normal',
  /** rgb as sRGB. */
  emissive: 'emissive',
  /** r share of light that goes through. */
  transmission: 'transmission',
  /** a specular level. */
  specular: 'specular',
  /** r strength of a clear coat. */
  clearcoat: 'clear coat',
} as const;
export type GlbTextureUse = keyof typeof GLB_TEXTURES;

/** A picture in a file. */
export interface GlbPicture {
  name: string;
  bytes: Uint8Array;
  /** KTX2 of universal blocks, as KHR_texture_basisu has it; the rest as glTF 2.0 itself. */
  mediaType: 'image/png' | 'image/jpeg' | 'image/ktx2';
}

/** What a slot looks like, as the format has it. */
export interface GlbMaterial {
  textures: Partial<Record<GlbTextureUse, GlbPicture>>;
  /** The set of texture coordinates by which all of them are laid. */
  set: number;
  /** How often textures repeat over the coordinates: 1 as they are. */
  scale: number;
  drawn: Drawn;
  /** Whether red of the ORM texture holds occlusion. */
  occluded: boolean;
  /** Stands in where there is no ORM texture. */
  roughness: number;
  metallic: number;
  /** What else the slot may look like, by name (KHR_materials_variants); a name that several slots have is one. */
  variants?: ReadonlyMap<string, GlbMaterial>;
}

/** What a slot is that nothing was said of. */
export const PLAIN: GlbMaterial = { textures: {}, set: 0, scale: 1, drawn: { as: 'solid', cut: 0.5 }, occluded: false, roughness: 0.8, metallic: 0 };

/** Materials of one document; a texture that several use is stored once. */
export class GlbMaterials {
  private readonly textures = new Map<Uint8Array, Texture>();
  private readonly made = new Map<string, Material>();

  constructor(
    private readonly document: GltfDocument,
    private readonly given: ReadonlyMap<string, GlbMaterial>,
  ) {}

  of(slot: string): Material {
    let material = this.made.get(slot);
    if (!material) this.made.set(slot, (material = this.make(slot, this.given.get(slot) ?? PLAIN)));
    return material;
  }

  /** Gives a primitive the material of its slot, and those of the slot's variants. */
  dress(primitive: Primitive, slot: string): Primitive {
    primitive.setMaterial(this.of(slot));
    const variants = this.given.get(slot)?.variants;
    if (!variants?.size) return primitive;
    const extension = this.document.createExtension(KHRMaterialsVariants);
    const list = extension.createMappingList();
    for (const [name, from] of variants) {
      const key = `${slot}: ${name}`;
      let material = this.made.get(key);
      if (!material) this.made.set(key, (material = this.make(key, from)));
      let variant = this.variants.get(name);
      if (!variant) this.variants.set(name, (variant = extension.createVariant(name)));
      list.addMapping(extension.createMapping().setMaterial(material).addVariant(variant));
    }
    return primitive.setExtension('KHR_materials_variants', list);
  }
  private readonly variants = new Map<string, Variant>();

  private make(slot: string, from: GlbMaterial): Material {
    const { document } = this;
    const { textures, drawn, occluded } = from;
    const material = document.createMaterial(slot).setRoughnessFactor(from.roughness).setMetallicFactor(from.metallic);
    const put = (use: GlbTextureUse, set: (texture: Texture) => TextureInfo | null): void => {
      const picture = textures[use];
      const info = picture && set(this.texture(picture));
      info?.setTexCoord(from.set).setWrapS(TextureInfo.WrapMode.REPEAT).setWrapT(TextureInfo.WrapMode.REPEAT);
      if (info && from.scale !== 1)
        info.setExtension(
          'KHR_texture_transform',
          document.createExtension(KHRTextureTransform).createTransform().setScale([from.scale, from.scale]),
        );
    };
    put('baseColor', (t) => material.setBaseColorTexture(t).getBaseColorTextureInfo());
    put('orm', (t) => material.setRoughnessFactor(1).setMetallicFactor(1).setMetallicRoughnessTexture(t).getMetallicRoughnessTextureInfo());
    if (occluded) put('orm', (t) => material.setOcclusionTexture(t).getOcclusionTextureInfo());
    put('normal', (t) => material.setNormalTexture(t).getNormalTextureInfo());
    put('emissive', (t) => material.setEmissiveFactor([1, 1, 1]).setEmissiveTexture(t).getEmissiveTextureInfo());
    if (textures.transmission) {
      const through = document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(1);
      put('transmission', (t) => through.setTransmissionTexture(t).getTransmissionTextureInfo());
      material.setExtension('KHR_materials_transmission', through);
    }
    if (textures.specular) {
      const level = document.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(1);
      put('specular', (t) => level.setSpecularTexture(t).getSpecularTextureInfo());
      material.setExtension('KHR_materials_specular', level);
    }
    if (textures.clearcoat) {
      const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(1);
      put('clearcoat', (t) => coat.setClearcoatTexture(t).getClearcoatTextureInfo());
      material.setExtension('KHR_materials_clearcoat', coat);
    }
    // What is added to what lies behind it has no place in the format: it is mixed.
    if (drawn.as === 'cut-out') material.setAlphaMode('MASK').setAlphaCutoff(drawn.cut).setDoubleSided(true);
    else if (drawn.as !== 'solid') material.setAlphaMode('BLEND');
    return material;
  }

  private texture({ name, bytes, mediaType }: GlbPicture): Texture {
    const known = this.textures.get(bytes);
    if (known) return known;
    if (mediaType === 'image/ktx2') this.document.createExtension(KHRTextureBasisu).setRequired(true);
    const texture = this.document.createTexture(name).setMimeType(mediaType).setImage(bytes);
    this.textures.set(bytes, texture);
    return texture;
  }
}
