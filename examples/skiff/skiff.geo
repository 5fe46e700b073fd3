// A 4.2 m sailing skiff hull, made up for Bordado's example. Millimetres; x from the transom to the bow, y to port, z up.
// Remake the mesh beside this file with:  gmsh -2 skiff.geo -o skiff.msh
// The surface is the outside of the hull: the face of the mould.

size = 59;  // edge length of the elements

// Three lengths along the hull: transom to mast, mast step, mast to stem.
aft = 2450; fore = 2750;
forefoot = 3960;   // keel meets stem
chine_end = 4080;  // chine meets stem
stem_head = 4200;  // sheer meets stem

// --- the lines of the hull, port side -------------------------------------------------------------------------------
// Keel: z from x. Chine and sheer: y and z from x. Each is a macro that takes x and leaves y and z.
Macro Keel
  y = 0;
  If (x <= 2500)
    z = 85 * (1 - x / 2500)^2;
  Else
    z = 150 * ((x - 2500) / (forefoot - 2500))^3;
  EndIf
Return

Macro Chine
  s = x / chine_end;
  y = 600 * (1 - s^3.2) * (0.92 + 0.35 * s - 0.2 * s^2);
  z = 200 - 95 * Sin(Pi * s) + 105 * s^3;
Return

Macro Sheer
  s = x / stem_head;
  y = 690 * (1 - s^3) * (0.95 + 0.5 * s - 0.3 * s^2);
  z = 455 + 170 * s^2;
Return

// A spline through n + 1 points of a line between x0 and x1; ends are existing points.
n = 8;
Macro Line_Keel
  p[] = {p0};
  For i In {1:n - 1}
    x = x0 + (x1 - x0) * i / n;
    Call Keel;
    k = newp; Point(k) = {x, y, z, size}; p[] += k;
  EndFor
  p[] += p1;
  c = newl; Spline(c) = p[];
Return

Macro Line_Chine
  p[] = {p0};
  For i In {1:n - 1}
    x = x0 + (x1 - x0) * i / n;
    Call Chine;
    k = newp; Point(k) = {x, side * y, z, size}; p[] += k;
  EndFor
  p[] += p1;
  c = newl; Spline(c) = p[];
Return

Macro Line_Sheer
  p[] = {p0};
  For i In {1:n - 1}
    x = x0 + (x1 - x0) * i / n;
    Call Sheer;
    k = newp; Point(k) = {x, side * y, z, size}; p[] += k;
  EndFor
  p[] += p1;
  c = newl; Spline(c) = p[];
Return

// A frame curve from point p0 to p1, bowed outwards by a part of its length.
Macro Bow
  a[] = Point{p0}; b[] = Point{p1};
  k = newp;
  Point(k) = {(a[0] + b[0]) / 2, (a[1] + b[1]) / 2 + side * bow_y, (a[2] + b[2]) / 2 - bow_z, size};
  c = newl; Spline(c) = {p0, k, p1};
Return

// --- keel and stem, shared by both sides -----------------------------------------------------------------------------
x = 0;
Call Keel;
k0 = newp; Point(k0) = {x, 0, z, size};
x = aft;
Call Keel;
k1 = newp; Point(k1) = {x, 0, z, size};
x = fore;
Call Keel;
k2 = newp; Point(k2) = {x, 0, z, size};
k3 = newp; Point(k3) = {forefoot, 0, 150, size};
k4 = newp; Point(k4) = {chine_end, 0, 305, size};
k5 = newp; Point(k5) = {stem_head, 0, 625, size};

p0 = k0; p1 = k1; x0 = 0;    x1 = aft;
Call Line_Keel;
keel_aft = c;
p0 = k1; p1 = k2; x0 = aft;  x1 = fore;
Call Line_Keel;
keel_mast = c;
p0 = k2; p1 = k3; x0 = fore; x1 = forefoot;
Call Line_Keel;
keel_fore = c;
k = newp; Point(k) = {4030, 0, 222, size}; stem_low = newl; Spline(stem_low) = {k3, k, k4};
k = newp; Point(k) = {4148, 0, 462, size}; stem_high = newl; Spline(stem_high) = {k4, k, k5};

// --- the two sides ---------------------------------------------------------------------------------------------------
bottom[] = {}; topsides[] = {}; sheer[] = {}; transom_edge[] = {}; chainplate[] = {};
For number In {0:1}
  side = 1 - 2 * number;
  x = 0;
  Call Chine;
  c0 = newp; Point(c0) = {x, side * y, z, size};
  x = aft;
  Call Chine;
  c1 = newp; Point(c1) = {x, side * y, z, size};
  x = fore;
  Call Chine;
  c2 = newp; Point(c2) = {x, side * y, z, size};
  x = 0;
  Call Sheer;
  s0 = newp; Point(s0) = {x, side * y, z, size};
  x = aft;
  Call Sheer;
  s1 = newp; Point(s1) = {x, side * y, z, size};
  x = fore;
  Call Sheer;
  s2 = newp; Point(s2) = {x, side * y, z, size};

  p0 = c0; p1 = c1; x0 = 0;    x1 = aft;
  Call Line_Chine;
  chine_a = c;
  p0 = c1; p1 = c2; x0 = aft;  x1 = fore;
  Call Line_Chine;
  chine_m = c;
  p0 = c2; p1 = k4; x0 = fore; x1 = chine_end;
  Call Line_Chine;
  chine_f = c;
  p0 = s0; p1 = s1; x0 = 0;    x1 = aft;
  Call Line_Sheer;
  sheer_a = c;
  p0 = s1; p1 = s2; x0 = aft;  x1 = fore;
  Call Line_Sheer;
  sheer_m = c;
  p0 = s2; p1 = k5; x0 = fore; x1 = stem_head;
  Call Line_Sheer;
  sheer_f = c;

  bow_y = 12; bow_z = 26;
  p0 = k0; p1 = c0;
  Call Bow;
  floor_0 = c;
  p0 = k1; p1 = c1;
  Call Bow;
  floor_1 = c;
  p0 = k2; p1 = c2;
  Call Bow;
  floor_2 = c;
  bow_y = 18; bow_z = 4;
  p0 = c0; p1 = s0;
  Call Bow;
  wall_0 = c;
  p0 = c1; p1 = s1;
  Call Bow;
  wall_1 = c;
  p0 = c2; p1 = s2;
  Call Bow;
  wall_2 = c;

  l = newll; Curve Loop(l) = {keel_aft, floor_1, -chine_a, -floor_0};        f = news; Surface(f) = {l}; bottom[] += f;
  l = newll; Curve Loop(l) = {keel_mast, floor_2, -chine_m, -floor_1};       f = news; Surface(f) = {l}; bottom[] += f;
  l = newll; Curve Loop(l) = {keel_fore, stem_low, -chine_f, -floor_2};      f = news; Surface(f) = {l}; bottom[] += f;
  l = newll; Curve Loop(l) = {chine_a, wall_1, -sheer_a, -wall_0};           f = news; Surface(f) = {l}; topsides[] += f;
  l = newll; Curve Loop(l) = {chine_m, wall_2, -sheer_m, -wall_1};           f = news; Surface(f) = {l}; topsides[] += f;
  l = newll; Curve Loop(l) = {chine_f, stem_high, -sheer_f, -wall_2};        f = news; Surface(f) = {l}; topsides[] += f;

  sheer[] += {sheer_a, sheer_m, sheer_f};
  transom_edge[] += {floor_0, wall_0};
  chainplate[] += s1;
  transom_corner[number] = s0;
EndFor

// The transom is flat: closed by its upper edge.
top = newl; Line(top) = {transom_corner[0], transom_corner[1]};
l = newll; Curve Loop(l) = {transom_edge[0], transom_edge[1], top, -transom_edge[3], -transom_edge[2]};
transom = news; Plane Surface(transom) = {l};

Physical Surface("bottom") = bottom[];
Physical Surface("topsides") = topsides[];
Physical Surface("transom") = {transom};
Physical Curve("keel-line") = {keel_aft, keel_mast, keel_fore};
Physical Curve("mast-step") = {keel_mast};
Physical Curve("stem") = {stem_low, stem_high};
Physical Curve("sheer-edge") = sheer[];
Physical Curve("transom-edge") = {transom_edge[], top};
Physical Point("chainplates") = chainplate[];

Recombine Surface {bottom[], topsides[]};  // quadrilaterals; the transom stays in triangles
Mesh.Algorithm = 6;
Mesh.RecombinationAlgorithm = 1;
Mesh.MshFileVersion = 4.1;
