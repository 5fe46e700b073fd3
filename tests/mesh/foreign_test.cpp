// Files as other programs write them: each feature of a format in a small file of its own.
#include "support.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>
#include <lz4.h>
#include <lzma.h>

#include <cmath>
#include <cstring>

namespace of_mesh_foreign {

using namespace bordado;

namespace {

mesh::Surface read(const std::string& text, Findings& findings, const std::string& path = "mesh") {
  return mesh::read_bytes(text, path, {}, findings);
}
mesh::Surface read(const std::string& text) {
  Findings findings;
  return read(text, findings);
}
std::string refused(const std::string& text) {
  return test::failure([&] { read(text); });
}
double area(const mesh::Surface& surface) {
  double out = 0.0;
  for (const double a : mesh::geometry(surface).areas) out += a;
  return out;
}
bool has(const Findings& findings, std::string_view code, std::string_view text = "") {
  return std::any_of(findings.all().begin(), findings.all().end(),
                     [&](const Finding& f) { return f.code == code && f.what.find(text) != std::string::npos; });
}
std::size_t members(const mesh::Surface& surface, std::string_view name, int dimension) {
  const mesh::Group* const group = surface.group(name, dimension);
  return !group           ? 0
         : dimension == 2 ? group->elements.size()
         : dimension == 1 ? group->edges.size()
                          : group->points.size();
}

/// Two squares side by side, 2 by 1.
const std::string nodes = "*NODE, NSET=ALL\n1,0,0\n2,1,0\n3,2,0\n4,0,1\n5,1,1\n6,2,1\n";
const std::string shells = "*ELEMENT, TYPE=S4, ELSET=E\n1,1,2,5,4\n2,2,3,6,5\n";

}  // namespace

TEST_CASE("keywords: files that include others, on any block") {
  const test::Folder folder;
  std::filesystem::create_directory(folder / "sub");
  folder.write("sub/elements.inp", shells + "*INCLUDE, INPUT=sets.inp\n");
  folder.write("sub/sets.inp", "*ELSET, ELSET=A\n1\n");
  folder.write("nodes.txt", "1,0,0\n2,1,0\n3,2,0\n4,0,1\n5,1,1\n6,2,1\n");
  Findings findings;
  const mesh::Surface surface = mesh::read(
      folder.write("main.inp",
                   "*NODE, NSET=ALL, INPUT=nodes.txt\n*INCLUDE, INPUT=\"sub/elements.inp\"\n*NSET,NSET=B\n1,2\n"),
      {}, findings);
  CHECK(surface.element_count() == 2);
  CHECK(members(surface, "A", 2) == 1);
  CHECK(members(surface, "ALL", 0) == 6);
  CHECK(members(surface, "B", 0) == 2);
  const auto refusal = [&](const std::string& text) {
    return test::failure([&] { mesh::read(folder.write("bad.inp", text), {}, findings); });
  };
  for (const std::string missing : {"none.inp", "../../none.inp", "/none/none.inp"})
    CHECK(refusal(fmt::format("*INCLUDE, INPUT={}\n", missing))
              .find(fmt::format("bad.inp:1: error: there is no included file '{}' [mesh.include]", missing)) !=
          std::string::npos);
  CHECK(refusal("*INCLUDE, INPUT=bad.inp\n").find("includes itself, by way of others or not [mesh.include]") !=
        std::string::npos);
  const std::string outside = refusal("*NODE\n*INCLUDE, INPUT=/etc/passwd\n");
  CHECK(outside.find(
            "bad.inp:2: error: '/etc/passwd' lies outside the folder of the mesh, and is not opened [mesh.include]") !=
        std::string::npos);
  CHECK(test::failure([&] {
          mesh::read(folder.write("bad.inp", "*INCLUDE, INPUT=/etc/hostname\n"), {.includes_anywhere = true}, findings);
        }).find("outside") == std::string::npos);
  // An error in an included file names that file.
  folder.write("sub/broken.inp", "*NODE\n1,x\n");
  CHECK(refusal("*INCLUDE, INPUT=sub/broken.inp\n").find("sub/broken.inp:2: error: 'x' stands where a coordinate") !=
        std::string::npos);
}

TEST_CASE("keywords: generated nodes, elements and sets") {
  const mesh::Surface surface = read(
      "*NODE\n1,0,0\n5,4,0\n101,0,2\n105,4,2\n*NGEN, NSET=LOW\n1,5,1\n*NGEN, NSET=HIGH\n101,105\n*NFILL, "
      "NSET=ALL\nLOW,HIGH,2,50\n"
      "*ELEMENT, TYPE=S4\n1,1,2,52,51\n*ELGEN, ELSET=E\n1,4,1,1,2,50,10\n*ELSET, ELSET=ODD, GENERATE\n1,13,2\n");
  CHECK(surface.points.size() == 15);
  CHECK(surface.element_count() == 8);
  CHECK(test::near(area(surface), 8.0));
  CHECK(members(surface, "E", 2) == 8);
  CHECK(members(surface, "ODD", 2) == 4);  // 1 3 11 13
  CHECK(members(surface, "LOW", 0) == 5);
  CHECK(refused("*NODE\n1,0,0\n5,4,0\n*NGEN\n1,5,3\n").find("steps of 3 do not lead from node 1 to 5") !=
        std::string::npos);
  CHECK(refused("*NODE\n1,0,0\n*NGEN, LINE=P\n1,5,1\n").find("*NGEN along a curve is not read") != std::string::npos);
}

TEST_CASE("keywords and bulk data: lines that generate without end, and sets in sets, are bounded and counted") {
  const auto said = [](const std::string& text, const std::string& what) {
    const std::string found = refused(text);
    INFO(text << ": " << found);
    CHECK(found.find(what) != std::string::npos);
  };
  const std::string two = "*NODE\n1,0,0\n5,0,0\n";
  said(two + "*NGEN\n1,5\n*NODE\n900000000001,1,0\n*NGEN\n1,900000000001\n",
       "this line generates 900000000000 nodes or elements after 4 of lines above; 50 million are the most in a file");
  said(two + "*NGEN\n-9223372036854775808,9223372036854775807\n", "do not lead from node -9223372036854775808 to");
  said(two + "*NGEN\n1,5,-9223372036854775808\n", "do not lead from node 1 to 5");
  said(two + "*NSET,NSET=A\n1\n*NSET,NSET=B\n5\n*NFILL\nA,B,9223372036854775807,1\n",
       "this line generates 9223372036854775807");
  said(two + "*NSET,NSET=A\n1\n*NSET,NSET=B\n5\n*NFILL\nA,B,4,9223372036854775807\n", "lead beyond all numbers");
  said(nodes + shells + "*ELGEN\n1,100000,1,1,100000,1,100000\n", "this line generates 10000000000 nodes");
  said(nodes + shells + "*ELGEN\n1,9000000000000000000,1,1,9,1,1\n", "generates more than 2^63 nodes");
  said(nodes + shells + "*ELGEN\n1,3,9000000000000000000,1\n", "lead beyond all numbers");
  said(nodes + shells + "*ELSET,ELSET=A\nB\n*ELSET,ELSET=B\nC\n*ELSET,ELSET=C\nA,1\n",
       "name each other, by way of others or not [mesh.set-circle]");
  // Forty levels of two sets that hold the two below: 2^40 ways, one set each.
  std::string levels = "*ELSET,ELSET=A0\n1\n*ELSET,ELSET=B0\n2\n";
  for (int i = 1; i <= 40; ++i)
    levels += fmt::format("*ELSET,ELSET=A{0}\nA{1},B{1}\n*ELSET,ELSET=B{0}\nB{1},A{1}\n", i, i - 1);
  CHECK(members(read(nodes + shells + levels), "A40", 2) == 2);
  // Runs that lie over each other a hundred thousand times.
  std::string runs = "*ELSET,ELSET=R,GENERATE\n";
  for (int i = 0; i < 100000; ++i) runs += "1,9223372036854775807,1\n";
  CHECK(members(read(nodes + shells + runs), "R", 2) == 2);
  const std::string points =
      "BEGIN BULK\nGRID,1,,0.,0.,0.\nGRID,2,,1.,0.,0.\nGRID,3,,1.,1.,0.\nGRID,4,,0.,1.,0.\nCQUAD4,1,1,1,2,3,4\n";
  CHECK(members(read(points + "SPC1,2,123,1,THRU,99999999\nENDDATA\n"), "spc 2", 0) == 4);
}

TEST_CASE("keywords: sets of sets in either order, nodes of element sets, surfaces") {
  const mesh::Surface surface =
      read(nodes + shells +
           "*ELSET, ELSET=BOTH\nLEFT, RIGHT\n*ELSET, ELSET=LEFT\n1\n*ELSET, ELSET=RIGHT\n2\n"
           "*NSET, NSET=ON_LEFT, ELSET=LEFT\n*SURFACE, NAME=TOP\nBOTH, SPOS\n*SURFACE, NAME=RIM\nLEFT, S3\n2, S3\n"
           "*SURFACE, NAME=PTS, TYPE=NODE\nON_LEFT\n6\n*ELSET, ELSET=LOOP\nLOOP, LEFT\n");
  CHECK(members(surface, "BOTH", 2) == 2);
  CHECK(members(surface, "ON_LEFT", 0) == 4);
  CHECK(members(surface, "TOP", 2) == 2);
  CHECK(members(surface, "RIM", 1) == 2);
  CHECK(members(surface, "PTS", 0) == 5);
  CHECK(members(surface, "LOOP", 2) == 1);
  const mesh::Group& rim = *surface.group("RIM", 1);
  for (const mesh::Edge& edge : rim.edges)
    CHECK(surface.points[edge.first].y() == 0.0);  // S3 of a shell is its edge 1-2
  // Six hundred sets, each naming the next, in the slow order; a chain of 30,000.
  for (const int count : {600, 30000}) {
    std::string chain;
    for (int i = 0; i < count; ++i) chain += fmt::format("*ELSET, ELSET=C{}\nC{}\n", i, i + 1);
    const mesh::Surface long_one = read(nodes + shells + chain + fmt::format("*ELSET, ELSET=C{}\n1,2\n", count));
    CHECK(members(long_one, "C0", 2) == 2);
  }
}

TEST_CASE("keywords: titles, byte-order marks, systems, reals for ids, types by name") {
  CHECK(read("\xef\xbb\xbfMy mesh, made on a Monday\nby me\n" + nodes + shells).element_count() == 2);
  const mesh::Surface round =
      read("*NODE, SYSTEM=C\n1,1,0,0\n2,2,0,0\n3,2,90,0\n4,1,90,0\n*ELEMENT, TYPE=S4\n1,1,2,3,4\n");
  CHECK((round.points[2] - Vec3(0, 2, 0)).norm() < 1e-12);
  CHECK(refused("*NODE, SYSTEM=S\n1,1,0,0\n").find("nodes in the system 'S' are not read [mesh.keyword-not-read]") !=
        std::string::npos);
  CHECK(refused("*SYSTEM\n0,0,0,1,1,1\n*NODE\n1,1,0,0\n").find("*SYSTEM) are not read [mesh.keyword-not-read]") !=
        std::string::npos);
  CHECK(refused("*HEADING\n*PART, NAME=A\n" + nodes + shells)
            .find("made of parts and instances; their moves and copies are not read "
                  "[mesh.keyword-not-read]") != std::string::npos);
  CHECK(read("*NODE\n1.,0,0\n2,1,0\n3,1,1\n*ELEMENT, TYPE=US3\n7.,1,2,3\n").element_ids[0] == 7);
  Findings findings;
  const mesh::Surface guessed =
      read(nodes + "*ELEMENT, TYPE=S4X\n1,1,2,5,4\n*ELEMENT, TYPE=Q9Z\n2,2,3,6,5\n*ELEMENT, TYPE=C3D4\n3,1,2,3,4\n",
           findings);
  CHECK(guessed.element_count() == 1);
  CHECK(has(findings, "mesh.type-guessed", "1 of S4X"));
  CHECK(has(findings, "mesh.type-unknown", "1 of Q9Z"));
  CHECK(has(findings, "mesh.solids-passed-over", "1 solid"));
  CHECK(refused(nodes + "*ELEMENT, TYPE=C3D4\n3,1,2,3,4\n") ==
        "mesh: error: the mesh has no triangles and no quadrilaterals; it has 1 solid element, 6 nodes "
        "[mesh.no-shells]\n    save the "
        "shells too (S3, S4, S6, S8, S8R, ...), or mesh the surfaces");
}

TEST_CASE("bulk data: tabs, included files, repeated points, shear panels, quadrilaterals of nine nodes") {
  Findings findings;
  const std::string grid =
      "GRID\t1\t\t0.\t0.\t0.\nGRID,2,,1.,0.,0.\nGRID,3,,2.,0.,0.\nGRID,4,,0.,1.,0.\nGRID,5,,1.,1.,0.\nGRID,6,,2.,1.,0."
      "\n";
  const mesh::Surface surface = read("BEGIN BULK\n" + grid +
                                         "GRID,6,,2.,1.,0.\nCQUAD4,1,,1,2,5,4\nCSHEAR\t2\t7\t2\t3\t6\t5\nCBAR,9,3,1,2\n"
                                         "PLOTEL,10,2,3\nSET1,4,1,THRU,3,6\nSPC1,2,123,4,5\nENDDATA\n",
                                     findings);
  CHECK(surface.element_count() == 2);
  CHECK(test::near(area(surface), 2.0));
  CHECK(members(surface, "without property", 2) == 1);
  CHECK(members(surface, "property 7", 2) == 1);
  CHECK(members(surface, "property 3", 1) == 1);
  CHECK(members(surface, "PLOTEL", 1) == 1);
  CHECK(members(surface, "set 4", 0) == 4);
  CHECK(members(surface, "spc 2", 0) == 2);
  CHECK(refused("GRID,1,,0.,0.,0.\nGRID,1,,0.,0.,1.\nCTRIA3,1,1,1,1,1\n").find("node id 1 stands twice") !=
        std::string::npos);
  for (const std::string name : {"CQUAD", "CQUAD9"}) {
    const mesh::Surface nine = read(
        "GRID,1,,0.,0.,0.\nGRID,2,,2.,0.,0.\nGRID,3,,2.,2.,0.\nGRID,4,,0.,2.,0.\nGRID,5,,1.,0.,0.\nGRID,6,,2.,1.,0.\n"
        "GRID,7,,1.,2.,0.\nGRID,8,,0.,1.,0.\nGRID,9,,1.,1.,0.\n" +
        name + ",1,1,1,2,3,4,5,6\n,7,8,9\n");
    CHECK(nine.shapes[0] == mesh::Shape::quadrilateral8);
    CHECK(nine.points.size() == 8);
  }
  const test::Folder folder;
  folder.write("grid.bdf", grid);
  CHECK(mesh::read(folder.write("main.bdf", "SOL 101\nCEND\nBEGIN BULK\nINCLUDE 'gr\n  id.bdf'\nCQUAD4,1,1,1,2,5,4\n"),
                   {}, findings)
            .element_count() == 1);
  // Some middle nodes only: the corners.
  const mesh::Surface some =
      read("GRID,1,,0.,0.,0.\nGRID,2,,1.,0.,0.\nGRID,3,,0.,1.,0.\nGRID,4,,.5,0.,0.\nCTRIA6,1,1,1,2,3,4\n", findings);
  CHECK(some.shapes[0] == mesh::Shape::triangle3);
  CHECK(has(findings, "mesh.order-lowered"));
}

TEST_CASE("bulk data: grid points in systems that grid points make, chains of them, circles told") {
  // System 1 stands on points 1 2 3: origin (1,0,0), its third axis along y, its first along z.
  const mesh::Surface surface = read(
      "GRID,1,,1.,0.,0.\nGRID,2,,1.,1.,0.\nGRID,3,,1.,0.,1.\nCORD1R,1,1,2,3\nGRID,11,1,1.,0.,0.\nGRID,12,1,0.,1.,0.\n"
      "GRID,13,1,0.,0.,1.\nCTRIA3,1,1,11,12,13\n");
  CHECK((surface.points[0] - Vec3(1, 0, 1)).norm() < 1e-12);
  CHECK((surface.points[1] - Vec3(2, 0, 0)).norm() < 1e-12);
  CHECK((surface.points[2] - Vec3(1, 1, 0)).norm() < 1e-12);
  std::string chain = "GRID,1,20000,0.,0.,0.\nGRID,2,20000,1.,0.,0.\nGRID,3,20000,0.,1.,0.\nCTRIA3,1,1,1,2,3\n";
  for (int i = 1; i <= 20000; ++i) chain += fmt::format("CORD2R,{},{},0.,0.,0.,0.,0.,1.\n,1.,0.,0.\n", i, i - 1);
  CHECK(test::near(area(read(chain)), 0.5));
  CHECK(refused("GRID,1,1,0.,0.,0.\nCORD2R,1,2,0.,0.,0.,0.,0.,1.\n,1.,0.,0.\nCORD2R,2,1,0.,0.,0.,0.,0.,1.\n,1.,0.,0."
                "\nCTRIA3,1,1,1,1,1\n")
            .find("is defined in itself [mesh.unreadable]") != std::string::npos);
}

TEST_CASE("MSH: every version, higher orders by their corners") {
  const std::string list = "4\n1 0 0 0\n2 1 0 0\n3 1 1 0\n4 0 1 0\n";
  const mesh::Surface one = read("$NOD\n" + list + "$ENDNOD\n$ELM\n2\n1 1 7 3 2 1 2\n2 3 5 1 4 1 2 3 4\n$ENDELM\n");
  CHECK(members(one, "physical 5", 2) == 1);
  CHECK(members(one, "physical 7", 1) == 1);
  for (const std::string version : {"2", "2.1", "2.2"})
    CHECK(members(read("$MeshFormat\n" + version + " 0 8\n$EndMeshFormat\n$Nodes\n" + list +
                       "$EndNodes\n$Elements\n1\n2 3 2 5 1 1 2 3 4\n$EndElements\n"),
                  "physical 5", 2) == 1);
  const mesh::Surface three = read(
      "$MeshFormat\n3 0 8\n$EndMeshFormat\n$PhysicalNames\n1\n2 5 \"skin\"\n$EndPhysicalNames\n$Entities\n0 0 1 0\n9 0 "
      "1 5\n$EndEntities\n"
      "$Nodes\n4\n1 0 0 0 0\n2 1 0 0 9 2 0.5 0.5\n3 1 1 0 0\n4 0 1 0 0\n$EndNodes\n$Elements\n1\n2 3 9 6 1 2 3 4 1 "
      "1\n$EndElements\n");
  CHECK(members(three, "skin", 2) == 1);
  CHECK(three.points[1] == Vec3(1, 0, 0));
  const mesh::Surface four = read(
      "$MeshFormat\n4 0 8\n$EndMeshFormat\n$PhysicalNames\n1\n2 5 \"skin\"\n$EndPhysicalNames\n$Entities\n0 0 1 0\n9 0 "
      "0 0 1 1 0 1 5 0\n"
      "$EndEntities\n$Nodes\n1 4\n9 2 0 4\n1 0 0 0\n2 1 0 0\n3 1 1 0\n4 0 1 0\n$EndNodes\n$Elements\n1 1\n9 2 3 1\n2 1 "
      "2 3 4\n$EndElements\n");
  CHECK(members(four, "skin", 2) == 1);
  CHECK(test::near(area(four), 1.0));
  // Partitions: the piece of an entity keeps its group.
  const mesh::Surface parted = read(
      "$MeshFormat\n4.1 0 8\n$EndMeshFormat\n$PhysicalNames\n1\n2 5 \"skin\"\n$EndPhysicalNames\n$Entities\n0 0 1 0\n1 "
      "0 0 0 1 1 0 1 5 0\n"
      "$EndEntities\n$PartitionedEntities\n2\n0\n0 0 1 0\n8 2 1 1 1 0 0 0 1 1 0 1 5 "
      "0\n$EndPartitionedEntities\n$Nodes\n1 4 1 4\n2 8 0 4\n1\n2\n3\n4\n"
      "0 0 0\n1 0 0\n1 1 0\n0 1 0\n$EndNodes\n$Elements\n1 1 2 2\n2 8 3 1\n2 1 2 3 4\n$EndElements\n");
  CHECK(members(parted, "skin", 2) == 1);
  Findings findings;
  const mesh::Surface cubic = read(
      "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n10\n1 0 0 0\n2 3 0 0\n3 0 3 0\n4 1 0 0\n5 2 0 0\n6 2 1 0\n7 1 2 "
      "0\n8 0 2 0\n"
      "9 0 1 0\n10 1 1 0\n$EndNodes\n$Elements\n1\n1 21 2 5 1 1 2 3 4 5 6 7 8 9 10\n$EndElements\n",
      findings);
  CHECK(cubic.shapes[0] == mesh::Shape::triangle3);
  CHECK(test::near(area(cubic), 4.5));
  CHECK(has(findings, "mesh.order-lowered", "1 element of third order"));
}

TEST_CASE("MSH 3 in binary is what it is as text: entities as text, nodes and elements one by one") {
  const std::string head =
      "\n$EndMeshFormat\n$PhysicalNames\n1\n2 5 \"skin\"\n$EndPhysicalNames\n$Entities\n0 0 1 0\n9 0 1 "
      "5\n$EndEntities\n";
  const auto put = [](std::string& out, auto value) {
    char raw[sizeof value];
    std::memcpy(raw, &value, sizeof value);
    out.append(raw, sizeof value);
  };
  std::string binary = "$MeshFormat\n3 1 8\n";
  put(binary, std::int32_t{1});
  binary += head + "$Nodes\n4\n";
  const double places[4][2] = {{0, 0}, {2, 0}, {2, 1}, {0, 1}};
  for (std::int32_t i = 0; i < 4; ++i) {
    put(binary, i + 1);
    for (const double x : {places[i][0], places[i][1], 0.0}) put(binary, x);
    if (i != 1) {
      put(binary, std::int32_t{0});
      continue;
    }
    put(binary, std::int32_t{9}), put(binary, std::int32_t{2});  // on a surface, with two parameters
    put(binary, 0.25), put(binary, 0.75);
  }
  binary += "\n$EndNodes\n$Elements\n2\n";
  for (const std::int32_t value : {1, 2, 9, 3, 1, 2, 3, 2, 2, 9, 5, 1, 3, 4, 1, 7}) put(binary, value);
  binary += "\n$EndElements\n";
  const mesh::Surface surface = read(binary);
  CHECK(members(surface, "skin", 2) == 2);
  CHECK(test::near(area(surface), 2.0));
  for (std::size_t cut = 20; cut + 20 < binary.size(); cut += 7) CHECK(!refused(binary.substr(0, cut)).empty());
}

TEST_CASE("a middle node that no arc reaches is told and put halfway, one of a strong arc stays") {
  const auto triangle = [](double x, double y) {
    return fmt::format(
        "*NODE\n1,0,0\n2,2,0\n3,0,2\n4,{},{}\n5,1,1\n6,0,1\n7,2,2\n8,2,1\n9,1,2\n*ELEMENT,TYPE=S6\n1,1,2,3,4,5,6\n2,2,"
        "7,3,8,9,5\n",
        x, y);
  };
  for (const auto& [x, y] : {std::pair(1e21, -1e21), {1.0, -2.5}, {4.0, 0.0}}) {
    Findings findings;
    const mesh::Surface surface = read(triangle(x, y), findings);
    CHECK(test::near(area(surface), 4.0));
    CHECK(has(findings, "mesh.middle-far",
              "1 node in the middle of edges lie further from these than an arc would, and were put halfway: 4"));
  }
  Findings findings;
  const mesh::Surface surface = read(triangle(1.0, -1.0), findings);  // half a circle through three points
  CHECK(!has(findings, "mesh.middle-far"));
  // Under a parabola: two thirds of its height times its base.
  CHECK(test::near(area(surface), 4.0 + 2.0 * 2.0 / 3.0, 1e-6));
}

TEST_CASE("legacy VTK 5 as several libraries write it: counts of cells or offsets, types, either way of numbers") {
  const auto put = [](std::string& out, auto value) {
    char raw[sizeof value];
    std::memcpy(raw, &value, sizeof value);
    std::reverse(raw, raw + sizeof value);
    out.append(raw, sizeof value);
  };
  struct Way {
    std::string count, second, type;
    std::size_t width;
    bool nought;
  };
  for (const bool binary : {false, true})
    for (const Way& way :
         {Way{"3", "7", "vtktypeint64", 8, true}, Way{"2", "7", "vtktypeint64", 8, true}, Way{"3", "9", "int", 4, true},
          Way{"2", "7", "vtktypeint32", 4, false}, Way{"3", "7", "unsigned_long_long", 8, true}}) {
      std::string text = fmt::format("# vtk DataFile Version 5.1\nt\n{}\nDATASET UNSTRUCTURED_GRID\nPOINTS 5 double\n",
                                     binary ? "BINARY" : "ASCII");
      const auto numbers = [&](auto wide, const std::vector<int>& all) {
        for (const int value : all)
          if (!binary)
            text += fmt::format("{} ", value);
          else if (sizeof wide == 8 && way.width == 4)
            put(text, static_cast<std::int32_t>(value));
          else
            put(text, static_cast<decltype(wide)>(value));
        text += "\n";
      };
      numbers(double{}, {});
      text.pop_back();
      for (const double x : {0., 0., 0., 1., 0., 0., 1., 1., 0., 0., 1., 0., 2., 0., 0.})
        if (binary)
          put(text, x);
        else
          text += fmt::format("{} ", x);
      text += fmt::format("\nCELLS {} {}\nOFFSETS {}\n", way.count, way.second, way.type);
      numbers(std::int64_t{}, way.nought ? std::vector{0, 4, 7} : std::vector{4, 7});
      text += fmt::format("CONNECTIVITY {}\n", way.type);
      numbers(std::int64_t{}, {0, 1, 2, 3, 1, 4, 2});
      text += "CELL_TYPES 2\n";
      numbers(std::int32_t{}, {9, 5});
      INFO(binary << " " << way.count << " " << way.type);
      CHECK(test::near(area(read(text)), 1.5));
    }
}

TEST_CASE("polygons are cut properly, concave ones too, in every format") {
  // An L of area 3; cut as a fan from its first corner it would be 3.5 or more.
  const std::string points = "2 0 0\n2 1 0\n1 1 0\n1 2 0\n0 2 0\n0 0 0\n";
  const std::string obj = "v 2 0 0\nv 2 1 0\nv 1 1 0\nv 1 2 0\nv 0 2 0\nv 0 0 0\nf 1 2 3 4 5 6\n";
  const std::string vtu =
      "<VTKFile type=\"UnstructuredGrid\"><UnstructuredGrid><Piece NumberOfPoints=\"6\" "
      "NumberOfCells=\"1\"><Points><DataArray "
      "type=\"Float64\" NumberOfComponents=\"3\" format=\"ascii\">" +
      points +
      "</DataArray></Points><Cells><DataArray type=\"Int64\" Name=\"connectivity\" format=\"ascii\">0 1 2 3 4 "
      "5</DataArray><DataArray "
      "type=\"Int64\" Name=\"offsets\" format=\"ascii\">6</DataArray><DataArray type=\"UInt8\" Name=\"types\" "
      "format=\"ascii\">7"
      "</DataArray></Cells></Piece></UnstructuredGrid></VTKFile>";
  const std::string vtp =
      "<VTKFile type=\"PolyData\"><PolyData><Piece NumberOfPoints=\"6\" NumberOfVerts=\"0\" NumberOfLines=\"0\" "
      "NumberOfStrips=\"0\" "
      "NumberOfPolys=\"1\"><Points><DataArray type=\"Float64\" NumberOfComponents=\"3\" format=\"ascii\">" +
      points +
      "</DataArray></Points><Polys><DataArray type=\"Int64\" Name=\"connectivity\" format=\"ascii\">0 1 2 3 4 "
      "5</DataArray><DataArray "
      "type=\"Int64\" Name=\"offsets\" format=\"ascii\">6</DataArray></Polys></Piece></PolyData></VTKFile>";
  const std::string vtk = "# vtk DataFile Version 3.0\nL\nASCII\nDATASET POLYDATA\nPOINTS 6 float\n" + points +
                          "POLYGONS 1 7\n6 0 1 2 3 4 5\n";
  const std::string vtk5 = "# vtk DataFile Version 5.1\nL\nASCII\nDATASET UNSTRUCTURED_GRID\nPOINTS 6 double\n" +
                           points +
                           "CELLS 2 6\nOFFSETS vtktypeint64\n0 6\nCONNECTIVITY vtktypeint64\n0 1 2 3 4 5\nCELL_TYPES "
                           "1\n7\nCELL_DATA 1\nSCALARS skin int 1\n"
                           "LOOKUP_TABLE default\n4\n";
  const std::string ply =
      "ply\nformat ascii 1.0\ncomment L\nelement vertex 6\nproperty float x\nproperty float y\nproperty float "
      "z\nelement face 1\nproperty list "
      "uchar int vertex_indices\nend_header\n" +
      points + "6 0 1 2 3 4 5\n";
  const std::string off = "OFF\n# L\n6 1 0\n" + points + "6 0 1 2 3 4 5 0.1 0.2 0.3\n";
  for (const std::string& text : {obj, vtu, vtp, vtk, vtk5, ply, off}) {
    INFO(text.substr(0, 40));
    Findings findings;
    const mesh::Surface surface = read(text, findings);
    CHECK(surface.element_count() == 4);
    CHECK(test::near(area(surface), 3.0));
    CHECK(has(findings, "mesh.polygons-cut"));
    for (const Vec3& normal : mesh::geometry(surface).normals) CHECK(normal.z() > 0.99);
  }
  CHECK(members(read(vtk5), "skin 4", 2) == 4);
  // A star of many points, and corners on one line.
  std::string star = "v 0 0 0\n", face = "f";
  double wanted = 0.0;
  std::vector<Vec3> corners;
  for (int i = 0; i < 200; ++i) {
    const double r = i % 2 ? 1.0 : 3.0, a = 2 * 3.14159265358979 * i / 200;
    corners.emplace_back(r * std::cos(a), r * std::sin(a), 0);
    star += fmt::format("v {} {} 0\n", corners.back().x(), corners.back().y());
    face += fmt::format(" {}", i + 2);
  }
  for (std::size_t i = 0; i < 200; ++i) wanted += 0.5 * corners[i].cross(corners[(i + 1) % 200]).z();
  CHECK(test::near(area(read(star + face + "\n")), wanted, 1e-9));
  std::string wide = "v 0 0 0\nv 1 0 0\nv 1 1 0\nf";
  for (int i = 0; i < 2001; ++i) wide += fmt::format(" {}", i % 3 + 1);
  CHECK(refused(wide + "\n").find("a face has 2001 corners; at most 2000 are cut into triangles") != std::string::npos);
  // With a hole, cut open along a line that is run twice: there and back.
  const std::string with_hole =
      "v 0 0 0\nv 3 0 0\nv 3 3 0\nv 0 3 0\nv 1 1 0\nv 1 2 0\nv 2 2 0\nv 2 1 0\nf 1 2 3 4 1 5 6 7 8 5\n";
  CHECK(test::near(area(read(with_hole)), 8.0));
  // One that a solver's format gives as an element counts by its true area, and is told.
  const mesh::Surface dart = read("*NODE\n1,0,0\n2,2,0\n3,.2,.2\n4,0,2\n*ELEMENT,TYPE=S4\n1,1,2,3,4\n");
  CHECK(test::near(area(dart), 0.4));
  CHECK(mesh::inspect(dart, mesh::geometry(dart)).folded.size() == 1);
  // A concave quadrilateral is no element.
  CHECK(read("v 0 0 0\nv 2 0 0\nv .5 .5 0\nv 0 2 0\nf 1 2 3 4\n").element_count() == 2);
}

TEST_CASE("strips, lines and points of poly data; binary PLY and VTK of either byte order") {
  const mesh::Surface strip = read(
      "# vtk DataFile Version 2.0\ns\nASCII\nDATASET POLYDATA\nPOINTS 5 float\n0 0 0 0 1 0 1 0 0 1 1 0 2 0 "
      "0\nTRIANGLE_STRIPS 1 6\n5 0 1 2 3 4\n"
      "LINES 1 4\n3 0 2 4\n");
  CHECK(strip.element_count() == 3);
  for (const Vec3& normal : mesh::geometry(strip).normals) CHECK(normal.z() < -0.99);
  const auto put = [](std::string& out, auto value, bool big) {
    char raw[sizeof value];
    std::memcpy(raw, &value, sizeof value);
    if (big) std::reverse(raw, raw + sizeof value);
    out.append(raw, sizeof value);
  };
  for (const bool big : {false, true}) {
    std::string ply = fmt::format(
        "ply\nformat binary_{}_endian 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty float "
        "z\nproperty uchar red\nelement face 1\n"
        "property list uchar int vertex_index\nend_header\n",
        big ? "big" : "little");
    for (const auto& [x, y] : {std::pair{0.0, 0.0}, {2.0, 0.0}, {0.0, 1.0}}) {
      put(ply, x, big), put(ply, y, big), put(ply, 0.0f, big);
      ply += '\x07';
    }
    ply += '\x03';
    for (const std::int32_t i : {0, 1, 2}) put(ply, i, big);
    CHECK(test::near(area(read(ply)), 1.0));
    CHECK(refused(ply.substr(0, ply.size() - 3)).find("[mesh.truncated]") != std::string::npos);
  }
  std::string vtk = "# vtk DataFile Version 3.0\nb\nBINARY\nDATASET UNSTRUCTURED_GRID\nPOINTS 3 float\n";
  for (const float x : {0.f, 0.f, 0.f, 2.f, 0.f, 0.f, 0.f, 1.f, 0.f}) put(vtk, x, true);
  vtk += "\nCELLS 1 4\n";
  for (const std::int32_t i : {3, 0, 1, 2}) put(vtk, i, true);
  vtk += "\nCELL_TYPES 1\n";
  put(vtk, std::int32_t{5}, true);
  CHECK(test::near(area(read(vtk)), 1.0));
}

TEST_CASE("VTU packed by LZ4 and LZMA, and packed lies") {
  const auto base64 = [](const std::string& bytes) {
    constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
      std::uint32_t bits = 0;
      for (std::size_t k = 0; k < 3; ++k)
        bits = bits << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0u);
      for (std::size_t k = 0; k < 4; ++k) out += i + k > bytes.size() ? '=' : letters[bits >> (18 - 6 * k) & 63];
    }
    return out;
  };
  const auto array = [&](bool lz4, const auto& values, std::uint32_t claim = 0) {
    const std::string raw(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(values[0]));
    std::string packed(1000, '\0');
    if (lz4) {
      packed.resize(static_cast<std::size_t>(
          LZ4_compress_default(raw.data(), packed.data(), static_cast<int>(raw.size()), 1000)));
    } else {
      std::size_t size = 0;
      REQUIRE(lzma_easy_buffer_encode(6, LZMA_CHECK_CRC32, nullptr, reinterpret_cast<const std::uint8_t*>(raw.data()),
                                      raw.size(), reinterpret_cast<std::uint8_t*>(packed.data()), &size,
                                      1000) == LZMA_OK);
      packed.resize(size);
    }
    const std::uint32_t head[] = {1, claim ? claim : static_cast<std::uint32_t>(raw.size()), 0,
                                  static_cast<std::uint32_t>(packed.size())};
    return base64(std::string(reinterpret_cast<const char*>(head), sizeof head)) + base64(packed);
  };
  const auto file = [&](bool lz4, std::uint32_t claim = 0) {
    const std::vector<double> points = {0, 0, 0, 2, 0, 0, 0, 1, 0};
    const std::vector<std::int64_t> connectivity = {0, 1, 2}, offsets = {3};
    const std::vector<std::uint8_t> types = {5};
    return fmt::format(
        "<VTKFile type=\"UnstructuredGrid\" byte_order=\"LittleEndian\" header_type=\"UInt32\" "
        "compressor=\"{}\"><UnstructuredGrid><Piece "
        "NumberOfPoints=\"3\" NumberOfCells=\"1\"><Points><DataArray type=\"Float64\" NumberOfComponents=\"3\" "
        "format=\"binary\">{}</DataArray>"
        "</Points><Cells><DataArray type=\"Int64\" Name=\"connectivity\" format=\"binary\">{}</DataArray><DataArray "
        "type=\"Int64\" "
        "Name=\"offsets\" format=\"binary\">{}</DataArray><DataArray type=\"UInt8\" Name=\"types\" "
        "format=\"binary\">{}</DataArray></Cells>"
        "</Piece></UnstructuredGrid></VTKFile>",
        lz4 ? "vtkLZ4DataCompressor" : "vtkLZMADataCompressor", array(lz4, points, claim), array(lz4, connectivity),
        array(lz4, offsets), array(lz4, types));
  };
  for (const bool lz4 : {true, false}) {
    CHECK(test::near(area(read(file(lz4))), 1.0));
    CHECK(refused(file(lz4, 4'000'000'000u)).find("more than 200 times as large as the file") != std::string::npos);
    CHECK(refused(file(lz4, 80)).find("a compressed array is broken") != std::string::npos);
  }
}

TEST_CASE("numbers beyond all range, and names that are no UTF-8, are met at the door") {
  for (const std::string text : {"*NODE\n1,1e999,0\n2,1,0\n3,0,1\n*ELEMENT,TYPE=S3\n1,1,2,3\n",
                                 "OFF\n3 1 0\n1e999 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"})
    CHECK(refused(text).find("[mesh.not-finite]") != std::string::npos);
  CHECK(read("*NODE\n1,1e-999,0\n2,1,0\n3,0,1\n*ELEMENT,TYPE=S3\n1,1,2,3\n").points[0] == Vec3::Zero());
  const mesh::Surface latin = read("*NODE\n1,0,0\n2,1,0\n3,0,1\n*ELEMENT,TYPE=S3,ELSET=R\xfcmpf\n1,1,2,3\n");
  CHECK(latin.groups[0].name == "Rümpf");
  const mesh::Surface steering = read(
      "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$PhysicalNames\n1\n2 5 \"a\x1b[31m\nb\"\n$EndPhysicalNames\n$Nodes\n3\n1 "
      "0 0 0\n2 1 0 0\n"
      "3 0 1 0\n$EndNodes\n$Elements\n1\n1 2 2 5 1 1 2 3\n$EndElements\n");
  CHECK(steering.groups[0].name == "a [31m b");
  const test::Folder folder;
  mesh::Surface quoted = steering;
  quoted.groups[0].name = "the \"skin\"\n$Nodes";
  mesh::write(quoted, folder / "q.msh");
  Findings findings;
  CHECK(mesh::read(folder / "q.msh", {}, findings).groups[0].name == "the 'skin' $Nodes");
}

TEST_CASE("files that are known for what they are, but not read, are named with what helps") {
  for (const auto& [text, name] : {std::pair<std::string, std::string>{"ISO-10303-21;\nHEADER;", "a STEP file"},
                                   {"\x89HDF\r\n", "an HDF5 file"},
                                   {"PK\x03\x04xx", "a ZIP archive"},
                                   {"\x1f\x8b\x08", "packed by gzip"},
                                   {"[part]\nname=1", "a part file"},
                                   {"<?xml version=\"1.0\"?><a/>", "XML of another kind"}})
    CHECK_MESSAGE(refused(text).find("the mesh file is " + name) != std::string::npos, refused(text));
  CHECK(refused(std::string(300, ' ')).find("nothing but blanks") != std::string::npos);
}

}  // namespace of_mesh_foreign
