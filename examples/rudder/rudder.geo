// The blade of a small sailing skiff's rudder, 900 mm deep. The shape is made up: a symmetric section, 12 % thick.
// gmsh -2 rudder.geo -o rudder.msh remakes the mesh; -setnumber size 8 makes it finer.
SetFactory("Built-in");
DefineConstant[ size = {13, Name "element size, mm"} ];
depth = 900;
n = 24;  // points of half a section

// x of the leading edge and length of the section, z down from the head
Function Section
  // in: z, lead, chord, first (number of its first point)
  For k In {0:n}
    s = (1 - Cos(Pi * k / n)) / 2;  // close together at the nose
    t = 0.6 * (0.2969 * Sqrt(s) - 0.1260 * s - 0.3516 * s^2 + 0.2843 * s^3 - 0.1036 * s^4);
    Point(first + k) = {lead + chord * s, chord * t, -z};
    Point(first + 100 + k) = {lead + chord * s, -chord * t, -z};
  EndFor
Return

z = 0;     lead = 0;  chord = 250; first = 1000; Call Section;
z = depth; lead = 70; chord = 150; first = 2000; Call Section;

Spline(1) = {1000 : 1000 + n};                        // head, port, nose to tail
Spline(2) = {2000 : 2000 + n};                        // tip, port
Spline(3) = {1000, 1101 : 1100 + n - 1, 1000 + n};    // head, starboard
Spline(4) = {2000, 2101 : 2100 + n - 1, 2000 + n};    // tip, starboard
Point(3001) = {4, 0, -0.35 * depth};                  // the leading edge sweeps back towards the tip
Point(3002) = {24, 0, -0.72 * depth};
Spline(5) = {1000, 3001, 3002, 2000};                 // leading edge
Point(3003) = {249, 0, -0.4 * depth};
Point(3004) = {238, 0, -0.75 * depth};
Spline(6) = {1000 + n, 3003, 3004, 2000 + n};         // trailing edge

Curve Loop(1) = {1, 6, -2, -5};
Surface(1) = {1};
Curve Loop(2) = {3, 6, -4, -5};
Surface(2) = {2};

along = Ceil(depth / size);
across = Ceil(1.02 * 250 / size);
Transfinite Curve {5, 6} = along + 1;
Transfinite Curve {1, 2, 3, 4} = across + 1 Using Progression 1.04;
Transfinite Surface {1, 2};
Recombine Surface {1, 2};

Physical Surface("port") = {1};
Physical Surface("starboard") = {2};
Physical Curve("leading-edge") = {5};
Physical Curve("trailing-edge") = {6};
Physical Curve("head") = {1, 3};
Physical Curve("tip") = {2, 4};
