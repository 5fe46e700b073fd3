// A curved panel, 400 mm along x, 200 mm along y, on a cylinder of 500 mm radius about x. Millimetres.
// Remake the mesh beside this file with:  gmsh -2 panel.geo -o panel.msh
radius = 500; half = 0.2;  // half the angle that the panel spans, in radians
Point(1) = {0, -radius * Sin(half), radius * Cos(half)};
Point(2) = {0, radius * Sin(half), radius * Cos(half)};
Point(3) = {0, 0, 0};
Circle(1) = {1, 3, 2};
panel[] = Extrude {400, 0, 0} { Curve{1}; Layers{20}; Recombine; };
Transfinite Curve {1} = 11;
Physical Surface("panel") = {panel[1]};
Physical Curve("root") = {1};
Physical Curve("tip") = {panel[0]};
Mesh.MshFileVersion = 4.1;
