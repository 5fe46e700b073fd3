/// \file record.hpp
/// How a deck was made, written down beside it: whoever reads the answer of its solver asks here, so that no option is told
/// twice and no answer that was refused is believed.
#ifndef BORDADO_DECK_RECORD_HPP
#define BORDADO_DECK_RECORD_HPP

#include <bordado/base/replacing.hpp>
#include <bordado/deck.hpp>

#include <optional>

namespace bordado::deck {

/// An answer that solve did not believe, and why.
struct Refused {
  std::string code, what;    ///< of the finding
  std::string answer_print;  ///< answer_print() of the file then: another one is not meant
};

struct Record {
  std::string deck;                ///< name of the file
  std::string part, variant;       ///< name of the part file; empty: no variant
  section::Options sections = {};  ///< what its sections were made with
  std::optional<model::SolidOptions> solids = {};
  bool real_plies = false;         ///< LayersAs::plies was asked for
  std::vector<std::string> cases;  ///< in the deck's order
  std::vector<std::string> marks;  ///< Mark::name, in the order of its steps; CalculiX only
  std::optional<Refused> refused = {};
};

/// Of a deck that was written. \param options that it was written with
Record record_of(const Model& model, const WriteOptions& options, const Written& written);

/// "out/skiff.inp" has "out/skiff-inp-run.json".
std::string record_path(const std::string& deck_path);

/// Takes over that an answer was refused from what stands beside the deck, where that is the same deck.
void keep_refusal(Record& record, const std::string& deck_path);

/// Writes it beside the deck. \throws Failure "file.*".
void write_record(const Record& record, const std::string& deck_path, MayReplace may_replace);

/// What stands beside a deck; nothing where nothing does, or where it is none of ours.
std::optional<Record> read_record(const std::string& deck_path);

/// A record and the deck that it is of, "out/skiff.inp".
struct FoundRecord {
  std::string deck_path;
  Record record;
};
/// All records of a part in a folder, by name. \param part_file a path: only its name counts \param variant nothing: any
std::vector<FoundRecord> records_in(const std::string& folder, const std::string& part_file,
                                    const std::optional<std::string>& variant);

/// A short print of a file: its size, and of its bytes what stands at either end. Empty where there is none.
std::string answer_print(const std::string& path);

}  // namespace bordado::deck

#endif
