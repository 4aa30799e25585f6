/** Style sheets mean nothing without a page. For tests. */
export default {};
