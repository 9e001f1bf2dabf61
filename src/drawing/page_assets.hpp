// The page's own files, from src/drawing/page/.
#pragma once

namespace jolly_iris::drawing {

extern const char* const page_frame;   ///< HTML with @TITLE@, @STYLE@, @DATA@ and @SCRIPT@
extern const char* const page_style;   ///< CSS
extern const char* const page_script;  ///< JavaScript

}  // namespace jolly_iris::drawing
