// A carbon tube: the lower mast of a small sailing skiff, 2.4 m long, tapering. The shape is made up.
// gmsh -2 spar.geo -o spar.msh remakes the mesh; -setnumber round 32 makes it finer.
SetFactory("Built-in");
DefineConstant[ round = {20, Name "elements round the tube"} ];
length = 2400;
low = 32;   // radius up to half the length
high = 24;  // radius at the top

Function Circle4
  // in: z, r, first (number of its centre)
  Point(first) = {0, 0, z};
  For k In {0:3}
    Point(first + 1 + k) = {r * Cos(k * Pi / 2), r * Sin(k * Pi / 2), z};
  EndFor
  For k In {0:3}
    Circle(first + k) = {first + 1 + k, first, first + 1 + (k + 1) % 4};
    Transfinite Curve {first + k} = Ceil(round / 4) + 1;
  EndFor
Return

z = 0;          r = low;  first = 100; Call Circle4;
z = length / 2; r = low;  first = 200; Call Circle4;
z = length;     r = high; first = 300; Call Circle4;

For k In {0:3}
  Line(400 + k) = {101 + k, 201 + k};
  Line(500 + k) = {201 + k, 301 + k};
EndFor
long = Ceil(length / 2 / (2 * Pi * low / round) / 1.6);
Transfinite Curve {400:403, 500:503} = long + 1;
For k In {0:3}
  Curve Loop(600 + k) = {100 + k, 400 + (k + 1) % 4, -(200 + k), -(400 + k)};
  Surface(600 + k) = {600 + k};
  Curve Loop(700 + k) = {200 + k, 500 + (k + 1) % 4, -(300 + k), -(500 + k)};
  Surface(700 + k) = {700 + k};
EndFor
Transfinite Surface {600:603, 700:703};
Recombine Surface {600:603, 700:703};

Physical Surface("straight") = {600:603};
Physical Surface("taper") = {700:703};
Physical Curve("foot") = {100:103};
Physical Curve("top") = {300:303};
