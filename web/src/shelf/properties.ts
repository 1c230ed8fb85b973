// What of a material each family is computed with, by name and unit.
export const PROPERTIES: Record<string, { name: string; unit: string }> = {
  density_kg_m3: { name: "Density", unit: "kg/m³" },
  youngs_modulus_gpa: { name: "Young’s modulus", unit: "GPa" },
  youngs_modulus_mpa: { name: "Young’s modulus", unit: "MPa" },
  youngs_dynamic_mpa: { name: "Dynamic modulus", unit: "MPa" },
  poisson: { name: "Poisson’s ratio", unit: "" },
  loss_factor: { name: "Loss factor", unit: "" },
  flow_resistivity_pa_s_m2: { name: "Flow resistivity", unit: "Pa·s/m²" },
  frame_modulus_kpa: { name: "Modulus of its frame", unit: "kPa" },
  facing_thickness_mm: { name: "Facing, thickness", unit: "mm" },
  facing_modulus_gpa: { name: "Facing, modulus", unit: "GPa" },
  facing_density_kg_m3: { name: "Facing, density", unit: "kg/m³" },
  loss_peak_c: { name: "Best at", unit: "°C" },
  loss_width_c: { name: "Half as good off by", unit: "°C" },
  modulus_decade_c: { name: "Tenfold softer in", unit: "°C" },
  conductivity_w_mk: { name: "Conductivity", unit: "W/(m·K)" },
  vapour_mu: { name: "Vapour resistance µ", unit: "" },
};
const HEAT = ["conductivity_w_mk", "vapour_mu"];
const OF: Record<string, string[]> = {
  plate: ["density_kg_m3", "youngs_modulus_gpa", "poisson", "loss_factor", ...HEAT],
  damping: [
    "density_kg_m3",
    "youngs_modulus_mpa",
    "loss_factor",
    "facing_thickness_mm",
    "facing_modulus_gpa",
    "facing_density_kg_m3",
    "loss_peak_c",
    "loss_width_c",
    "modulus_decade_c",
    ...HEAT,
  ],
  limp: ["density_kg_m3", ...HEAT],
  foam: ["density_kg_m3", "youngs_dynamic_mpa", "loss_factor", ...HEAT],
  porous: ["density_kg_m3", "flow_resistivity_pa_s_m2", "frame_modulus_kpa", ...HEAT],
};
export const propertiesOf = (family: string): readonly string[] => OF[family] ?? [];
