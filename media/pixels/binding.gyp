{
  "targets": [
    {
      "target_name": "shale_pixels",
      "sources": ["src/addon.cc", "src/looking.cc", "src/pixels.cc", "src/resample.cc", "src/likeness.cc", "src/view.cc", "src/curves.cc", "src/work.cc"],
      "include_dirs": ["<!(node -p \"require('node-addon-api').include_dir\")"],
      "defines": ["NAPI_VERSION=8", "NODE_ADDON_API_CPP_EXCEPTIONS"],
      "cflags_cc": ["-std=c++17", "-O3", "-ffp-contract=off", "-fexceptions"],
      "cflags_cc!": ["-fno-exceptions", "-std=gnu++17"]
    }
  ]
}
