/** The one file that is loaded when a PDF is asked for; its types are those of the package. */
declare module "pdfmake/build/pdfmake.min.js" {
  import type { TDocumentDefinitions } from "pdfmake/interfaces";
  const maker: {
    addVirtualFileSystem(files: Record<string, string>): void;
    addFonts(fonts: Record<string, Record<"normal" | "bold" | "italics" | "bolditalics", string>>): void;
    createPdf(doc: TDocumentDefinitions): { getBlob(): Promise<Blob> };
  };
  export default maker;
}
