{
  "targets": [
    {
      "target_name": "shale_tiff",
      "sources": ["src/addon.cc", "src/read.cc", "src/write.cc", "../native/deflate.cc"],
      "include_dirs": ["<!(node -p \"require('node-addon-api').include_dir\")"],
      "defines": ["NAPI_VERSION=8", "NODE_ADDON_API_CPP_EXCEPTIONS"],
      "cflags_cc": ["-std=c++17", "-O3", "-fexceptions", "<!@(pkg-config --cflags libdeflate libisal)"],
      "cflags_cc!": ["-fno-exceptions", "-std=gnu++17"],
      "libraries": ["<!@(pkg-config --libs libdeflate libisal)"]
    }
  ]
}
