// The page's own files, from src/live/page/.
#pragma once

namespace jolly_iris::live {

extern const char* const page_html;
extern const char* const page_css;
extern const char* const page_js;

}  // namespace jolly_iris::live
