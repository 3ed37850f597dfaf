import { ShaderChunk } from 'three';

/**
 * What shiny things mirror: a grey room, lighter above than below, with a soft lamp where the light comes from, so that it
 * turns with it. Worked out for each pixel: pictures of surroundings would take seconds to make where there is no graphics
 * processor, and without any metal would be black.
 */
const surroundings = /* glsl */ `
#if defined( RE_IndirectSpecular ) && ! defined( USE_ENVMAP )
{
	vec3 mirrored = reflect( - geometryViewDir, geometryNormal );
	float up = transformDirectionByInverseViewMatrix( mirrored, viewMatrix ).y;
	float blur = 0.25 + 0.75 * material.roughness;
	float shade = mix( 0.16, 0.62, smoothstep( - blur, blur, up ) );
	#if NUM_DIR_LIGHTS > 0
		float toLamp = max( dot( mirrored, directionalLights[ 0 ].direction ), 0.0 );
		shade += ( 1.0 - material.roughness ) * 0.9 * smoothstep( 0.8, 0.95, toLamp );
	#endif
	radiance += vec3( shade );
}
#endif
`;

/** Has all that is drawn from now on stand in these surroundings. */
export function standInNeutralSurroundings(): void {
  if (!ShaderChunk.lights_fragment_maps.includes(surroundings))
    ShaderChunk.lights_fragment_maps += surroundings;
}
