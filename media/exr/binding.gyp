{
  "targets": [
    {
      "target_name": "shale_exr",
      "sources": ["src/addon.cc", "src/read.cc", "src/write.cc", "src/zip.cc", "src/attributes.cc", "../native/deflate.cc"],
      "include_dirs": ["<!(node -p \"require('node-addon-api').include_dir\")"],
      "defines": ["NAPI_VERSION=8", "NODE_ADDON_API_CPP_EXCEPTIONS"],
      "cflags_cc": ["-std=c++17", "-O3", "-ffp-contract=off", "-fexceptions", "-frtti", "<!@(pkg-config --cflags OpenEXR libdeflate libisal)"],
      "cflags_cc!": ["-fno-exceptions", "-fno-rtti", "-std=gnu++17"],
      "libraries": ["<!@(pkg-config --libs OpenEXR libdeflate libisal)"]
    }
  ]
}
