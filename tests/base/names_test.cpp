#include "support.hpp"

#include <bordado/base/text.hpp>

namespace of_base_names {

using namespace bordado;

TEST_CASE("what is no UTF-8 is taken as Latin-1, once") {
  CHECK(is_utf8("ümläut €"));
  CHECK(!is_utf8("\xfcml\xe4ut"));
  CHECK(to_utf8("\xfcml\xe4ut") == "ümläut");
  CHECK(to_utf8("ümläut") == "ümläut");
  CHECK(to_utf8("\xc0\xaf") == "À¯");  // an overlong slash is no UTF-8
  CHECK(to_utf8("") == "");
}

TEST_CASE("a name for a line has nothing that breaks the line or steers the terminal") {
  CHECK(plain_text("a\nb\tc\x1b[31md\x7f") == "a b c [31md ");
  CHECK(plain_text("a\xe2\x80\xae"
                   "b") == "a b");  // right to left from here on
  CHECK(plain_text("\xff\x80") == "ÿ ");
  CHECK(plain_text(std::string(300, 'x')) == std::string(200, 'x') + "...");
  CHECK(plain_text("äöü", 2) == "äö...");
}

}  // namespace of_base_names
