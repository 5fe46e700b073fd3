#include "support.hpp"

#include <bordado/calculix.hpp>

namespace of_calculix_read_answer {

using namespace bordado;

namespace {

const std::string dat = R"(
                        S T E P       1


                                INCREMENT     1


 displacements (vx,vy,vz) for set NALL and time  0.1000000E+01

         1  0.000000E+00  0.000000E+00  0.000000E+00
        12 -1.000000E+00  2.000000E+00 -2.000000E+00

 total force (fx,fy,fz) for set FREE and time  0.1000000E+01

       -1.000000E+03  5.000000E-01  0.000000E+00

 stresses (elem, integ.pnt.,sxx,syy,szz,sxy,sxz,syz) for set EALL and time  0.1000000E+01

         1   1  7.000000E+01  0.000000E+00  0.000000E+00  0.000000E+00  0.000000E+00  0.000000E+00
)";

}  // namespace

TEST_CASE("displacements and reactions are read from the solver's listing") {
  const test::Folder folder;
  const calculix::Answer answer = calculix::read_answer(folder.write("a.dat", dat));
  REQUIRE(answer.displacements.size() == 2);
  CHECK(answer.largest()->id == 12);
  CHECK(test::near(answer.largest()->value.norm(), 3.0));
  REQUIRE(answer.forces.size() == 1);
  CHECK(answer.forces[0].set == "FREE");
  CHECK(answer.forces[0].total == Vec3(-1000, 0.5, 0));
  CHECK(answer.steps == 1);
  CHECK(answer.stress_lines == 1);
}

TEST_CASE("of several steps the last one counts") {
  const test::Folder folder;
  std::string later = dat;
  later.replace(later.find("-1.000000E+00  2.0"), 13, " 4.000000E+00");
  CHECK(test::near(calculix::read_answer(folder.write("a.dat", dat + later)).largest()->value.x(), 4.0));
}

TEST_CASE("an answer that is none is refused") {
  const test::Folder folder;
  CHECK(test::failure([&] {
          calculix::read_answer(folder.write("a.dat", "\n"));
        }).find("the solver wrote no displacements [result.empty]") != std::string::npos);
  std::string broken = dat;
  broken.replace(broken.find("-1.000000E+00  2.0"), 13, "          NaN");
  CHECK(test::failure([&] {
          calculix::read_answer(folder.write("a.dat", broken));
        }).find("the displacement of node 12 is not a number [result.not-finite]") != std::string::npos);
}

TEST_CASE("exit status nought is no proof that the solver finished") {
  CHECK(!calculix::trouble(0, "...\n Job finished\n").has_value());
  CHECK(*calculix::trouble(0, "...\n") == "the solver stopped without saying that the job finished");
  CHECK(*calculix::trouble(139, "...\n Job finished\n") == "the solver ended with status 139");
  CHECK(*calculix::trouble(0, " *ERROR in gen3dnor: increase nk_\n\n Job finished\n") ==
        "*ERROR in gen3dnor: increase nk_");
}

}  // namespace of_calculix_read_answer
