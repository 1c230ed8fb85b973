// The rooms of the front end: api < charts, parts < stages, shelf < shell; no stage knows another.
const STAGES = "^src/stages/([^/]+)/";
module.exports = {
    forbidden: [
        { name: "no-cycles", severity: "error", from: {}, to: { circular: true } },
        {
            name: "no-stage-imports-another",
            severity: "error",
            from: { path: STAGES },
            to: { path: "^src/stages/", pathNot: "^src/stages/$1/" },
        },
        {
            name: "no-shell-below-the-shell",
            severity: "error",
            from: { path: "^src/(api|charts|parts|stages|shelf|theme)/" },
            to: { path: "^src/(shell/|main)" },
        },
        {
            name: "no-stage-below-the-stages",
            severity: "error",
            from: { path: "^src/(api|charts|parts|shelf|theme)/" },
            to: { path: "^src/stages/" },
        },
        {
            name: "no-stage-goes-to-the-shelf",
            severity: "error",
            from: { path: "^src/(api|charts|parts|stages|theme)/" },
            to: { path: "^src/shelf/" },
        },
        {
            name: "charts-stand-alone",
            severity: "error",
            from: { path: "^src/charts/" },
            to: { path: "^src/(parts|api|stages|shell)/", pathNot: "^src/parts/words" },
        },
        { name: "api-stands-alone", severity: "error", from: { path: "^src/api/" }, to: { path: "^src/(?!api/)" } },
        {
            name: "resolvable",
            severity: "error",
            from: {},
            to: { couldNotResolve: true, pathNot: "url&no-inline$|^@fontsource" },
        },
    ],
    options: {
        doNotFollow: { path: "node_modules" },
        tsConfig: { fileName: "tsconfig.json" },
        tsPreCompilationDeps: true,
        enhancedResolveOptions: {
            exportsFields: ["exports"],
            conditionNames: ["import", "browser", "default", "types"],
        },
    },
};
