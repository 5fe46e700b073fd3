// A hatch cover, 640 mm by 480 mm with round corners. Millimetres.
// Remake the mesh beside this file with:  gmsh -2 hatch.geo -o hatch.msh
a = 320; b = 240; round = 80;
Point(1) = {-a + round, -b, 0}; Point(2) = {a - round, -b, 0}; Point(3) = {a, -b + round, 0}; Point(4) = {a, b - round, 0};
Point(5) = {a - round, b, 0}; Point(6) = {-a + round, b, 0}; Point(7) = {-a, b - round, 0}; Point(8) = {-a, -b + round, 0};
Point(11) = {a - round, -b + round, 0}; Point(12) = {a - round, b - round, 0};
Point(13) = {-a + round, b - round, 0}; Point(14) = {-a + round, -b + round, 0};
Line(1) = {1, 2}; Circle(2) = {2, 11, 3}; Line(3) = {3, 4}; Circle(4) = {4, 12, 5};
Line(5) = {5, 6}; Circle(6) = {6, 13, 7}; Line(7) = {7, 8}; Circle(8) = {8, 14, 1};
Curve Loop(1) = {1 : 8};
Plane Surface(1) = {1};
Physical Surface("cover") = {1};
Physical Curve("rim") = {1 : 8};
DefineConstant[ size = 12 ];
Mesh.MeshSizeMin = size; Mesh.MeshSizeMax = size;
Mesh.RecombineAll = 1; Mesh.Algorithm = 6; Mesh.RecombinationAlgorithm = 2;
Mesh.MshFileVersion = 4.1;
