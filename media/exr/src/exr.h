// OpenEXR for Shale: headers, pixels, writing. Everything here runs off the event loop and throws std::exception.
#pragma once

#include <ImfChannelList.h>
#include <ImfCompression.h>
#include <ImfHeader.h>

#include <cstdint>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace shale {

// An attribute as text or numbers; `type` is the standard's type name.
struct Attribute {
  std::string name;
  std::string type;
  std::variant<std::string, std::vector<double>> value;
};

struct Channel {
  std::string name;
  std::string type;  // half, float or uint
  int xSampling;
  int ySampling;
};

struct Part {
  std::string name;
  bool tiled;
  bool deep;
  std::string compression;
  int dataWindow[4];     // xMin yMin xMax yMax
  int displayWindow[4];
  std::vector<Channel> channels;
  std::vector<Attribute> attributes;
  bool complete;
};

struct Pixels {
  int width;
  int height;
  int channels;
  bool isFloat;
  std::vector<char> data;
};

struct WriteRequest {
  std::string path;
  int width;
  int height;
  std::vector<std::string> channels;
  bool isFloat;
  std::string compression;
  float dwaLevel;
  int zipLevel;
  std::vector<Attribute> attributes;
  const char* data;
};

std::vector<Part> readParts(const std::string& path);

// The named channels of a part, interleaved, cropped or padded with 0 to its display window. A channel name that is
// empty gives 1.0 throughout. Throws where the file is not whole.
Pixels readPixels(const std::string& path, int part, const std::vector<std::string>& channels, bool isFloat);

void writePixels(const WriteRequest& request);

std::vector<Attribute> attributesOf(const Imf::Header& header);
void putAttribute(Imf::Header& header, const Attribute& attribute);

const char* compressionName(Imf::Compression compression);
Imf::Compression compressionByName(const std::string& name);

}  // namespace shale
